// Pages without anything that moves: only day or night.
import { applyTheme } from "./api.js";

applyTheme();
