// A small map of the whole scene over the score: lines in their members' inks, and the part that is in sight.
import { gutter } from "./score-layout.js";

export class ScoreMap {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
  }

  draw(score) {
    const { canvas, context: c } = this;
    const { scene } = score;
    const ratio = devicePixelRatio;
    const width = canvas.clientWidth;
    const height = canvas.clientHeight;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    if (!scene?.duration) return;
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    const x = (t) => gutter + (t / scene.duration) * (width - gutter - 8);
    const row = (height - 4) / scene.members.length;
    scene.members.forEach((m, i) => {
      c.fillStyle = score.ink(m);
      for (const l of scene.lines)
        if (l.member === m.id && l.start !== null) {
          c.globalAlpha = l.id === score.selected ? 1 : 0.55;
          c.fillRect(x(l.start), 2 + i * row, Math.max(1, x(l.start + l.duration) - x(l.start) - 0.5), Math.max(1, row - 0.5));
        }
    });
    c.globalAlpha = 1;
    c.strokeStyle = score.color("ink");
    c.lineWidth = 1;
    const to = Math.min(scene.duration, score.scroll + score.visibleSeconds);
    c.strokeRect(Math.round(x(score.scroll)) + 0.5, 0.5, Math.max(4, Math.round(x(to) - x(score.scroll)) - 1), height - 1);
  }

  timeAt(score, px) {
    return ((px - gutter) / (this.canvas.clientWidth - gutter - 8)) * score.scene.duration;
  }
}
