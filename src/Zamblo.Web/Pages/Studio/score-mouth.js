// Drags on a voice and its lip strip: shapes and boundaries are moved, a stretch is picked.
import { post } from "../../front/api.js";
import { score } from "./shared.js";

export const scoreMouth = () => ({
  // What a drag from here does; null where the score has nothing to take.
  takeHold(hit, e) {
    if (!hit?.line) return null;
    const from = hit.local;
    if (hit.lane === "mouth" && hit.item && !e.shiftKey && !e.ctrlKey) {
      if (!this.picked.cues.includes(hit.item[5]) || this.picked.line !== hit.line.id) this.pickCue(hit.line, hit.item);
      return { cues: true, edge: hit.edge, line: hit.line.id, from, dx: 0 };
    }
    if (hit.lane === "mouth" && hit.item) {
      this.pickCue(hit.line, hit.item, e.ctrlKey, e.shiftKey);
      return { done: true };
    }
    if (hit.boundary) return { pin: hit.boundary, line: hit.line.id, from, dx: 0 };
    score.view.drag = null;
    return { range: true, line: hit.line.id, from, dx: 0 };
  },
  // Frames and words' edges attract, unless Alt is held.
  snap(line, t, e) {
    if (e.altKey) return t;
    const edges = [...(line.words ?? []), ...(score.view.showsPhones(line) ? line.phones : [])].flatMap((w) => [w[1], w[2]]);
    const near = edges.reduce((best, x) => (Math.abs(x - t) < Math.abs(best - t) ? x : best), Infinity);
    if (Math.abs(near - t) * score.view.pixelsPerSecond < 6) return near;
    return Math.round((line.start + t) * this.scene.fps) / this.scene.fps - line.start;
  },
  dragTo(drag, t, e) {
    const line = this.scene.lines.find((l) => l.id === drag.line);
    if (!line) return;
    const local = Math.max(0, Math.min(line.duration, t - line.start));
    if (Math.abs(local - drag.from) * score.view.pixelsPerSecond < 4 && !drag.moved) return;
    drag.moved = true;
    if (drag.range) {
      const a = this.snap(line, drag.from, e);
      const b = this.snap(line, local, e);
      const range = { start: Math.min(a, b), end: Math.max(a, b) };
      this.pick({ line: line.id, range, cues: this.cuesIn(line, range.start, range.end) });
      return;
    }
    if (drag.pin) drag.dx = this.snap({ ...line, words: [], phones: [] }, local, e) - drag.pin.time;
    else {
      const cue = this.pickedCues[0];
      const anchor = drag.edge === "End" ? cue[2] : cue[1];
      drag.dx = this.snap(line, anchor + local - drag.from, e) - anchor;
    }
  },
  async drop(drag, t) {
    const line = this.scene.lines.find((l) => l.id === drag.line);
    if (!line) return;
    if (!drag.moved) {
      this.goTo(Math.max(0, drag.cues ? line.start + (this.pickedCues[0][1] + this.pickedCues[0][2]) / 2 : t));
      if (drag.range || drag.pin) {
        const word = (line.words ?? []).findIndex((w) => drag.from >= w[1] && drag.from < w[2]);
        const sound = (line.sounds ?? []).find((s) => drag.from >= s[1] && drag.from < s[2]);
        if (sound) this.pickHeard(line, sound);
        else if (word >= 0) this.pickWord(line, word);
        else this.unpick();
      }
      return;
    }
    if (drag.pin) await this.pinBoundary(line, drag.pin, drag.pin.time + drag.dx);
    else if (drag.cues && drag.dx) await this.moveCues(drag.edge || "Move", drag.dx);
  },
  pinBoundary(line, boundary, time) {
    const { index, at, isPhone } = boundary;
    const place = isPhone ? { phoneOfLine: index, atEnd: at === "end" } : { word: index, phone: at === "start" ? 0 : 999 };
    return this.touch(() => post(`/api/lines/${line.id}/pins`, { revision: this.revision, ...place, time }), "Boundary set; its neighbours are aligned again.");
  },
  moveCues(operation, by) {
    return this.touch(() => {
      const { line, cues } = this.picked;
      return post(`/api/lines/${line}/cues`, { revision: this.revision, operation, cues: [...cues], by });
    });
  },
});
