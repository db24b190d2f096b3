// What lies on the stage beside those who stand there, while Set is open.
import { lampsOnStage } from "./lamps-on-stage.js";
import { marksOnStage } from "./marks-on-stage.js";
import { mix } from "./mix.js";

export const onStage = () => mix(marksOnStage(), lampsOnStage());
