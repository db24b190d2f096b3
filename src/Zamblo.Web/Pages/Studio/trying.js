// How something would look, shown on the stage while the pointer rests on it.
import { post } from "../../front/api.js";
import { stage } from "./shared.js";

export const trying = () => ({
  async tryFrame(body) {
    const turn = (this.tryTurn = (this.tryTurn ?? 0) + 1);
    try {
      const answer = await post(`/api/scenes/${this.sceneId}/try`, { frame: this.frameToTry, ...body });
      if (turn === this.tryTurn) stage.showOnce(answer);
    } catch {
      /* a look that failed is no error to tell */
    }
  },
  // The frame on the stage, or where the playhead is elsewhere the middle of what is picked.
  get frameToTry() {
    const cues = this.pickedCues;
    if (!cues.length) return this.frame;
    const start = this.pickedLine.start + Math.min(...cues.map((c) => c[1]));
    const end = this.pickedLine.start + Math.max(...cues.map((c) => c[2]));
    const t = this.frame / this.scene.fps;
    return t >= start && t < end ? this.frame : Math.min(this.scene.frames - 1, Math.round(((start + end) / 2) * this.scene.fps));
  },
  endTry() {
    this.tryTurn = (this.tryTurn ?? 0) + 1;
    stage.showAgain();
  },
});
