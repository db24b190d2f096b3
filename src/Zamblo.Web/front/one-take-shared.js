// What Alpine must not wrap: the sound, the picture, and what is under way.
import { Player } from "./player.js";

export const player = new Player();
export const view = { painter: null, frames: null, state: null, shown: -1, scene: "", member: "", queue: Promise.resolve() };
