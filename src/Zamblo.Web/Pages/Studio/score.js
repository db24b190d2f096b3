// The score: what a pointer takes hold of, and how near it is seen.
import { Score } from "../../front/score.js";
import { mix } from "./mix.js";
import { ScoreMap } from "../../front/score-map.js";
import { meets } from "../../front/turns.js";
import { scoreActing } from "./score-acting.js";
import { scoreEdge } from "./score-edge.js";
import { scoreLanes } from "./score-lanes.js";
import { scoreKeys } from "./score-keys.js";
import { scoreMouth } from "./score-mouth.js";
import { act, onKey, player, score } from "./shared.js";

const pointer = () => ({
  listen() {
    const canvas = this.$refs.score;
    let scrubbing = false;
    let last = 0;
    const scrub = (e) => {
      const t = Math.max(0, Math.min(score.view.timeAt(e.offsetX), this.scene.duration - 1e-3));
      player.pause();
      player.position = t;
      if (performance.now() - last > 55) {
        last = performance.now();
        player.grain(t);
      }
    };
    canvas.addEventListener("pointerdown", (e) => {
      if (!this.scene || e.button !== 0) return;
      this.focusByPointer();
      if (e.offsetX < 14 && this.foldStaff(e.offsetY)) return;
      const hit = score.view.hit(e.offsetX, e.offsetY);
      if (hit?.member) this.selectedMember = hit.member.id;
      if (hit?.line || e.offsetY > 26) this.selectedLine = hit?.line?.id ?? null;
      if (hit?.line) this.$dispatch("reveal-line", hit.line);
      if (e.offsetX < 116) return;
      canvas.setPointerCapture(e.pointerId);
      player.pause();
      score.view.drag = this.takeActing(hit, e) ?? this.takeHold(hit, e);
      if (score.view.drag) return;
      this.unpick();
      scrubbing = true;
      scrub(e);
    });
    canvas.addEventListener("pointermove", (e) => {
      if (score.view.drag?.acting) return this.dragActing(score.view.drag, score.view.timeAt(e.offsetX), e);
      if (score.view.drag) return score.view.drag.done ? null : this.dragTo(score.view.drag, score.view.timeAt(e.offsetX), e);
      if (scrubbing) return scrub(e);
      const hit = score.view.hit(e.offsetX, e.offsetY);
      canvas.style.cursor =
        hit?.lane === "line" && hit.edge && meets(score.raw, hit.line, hit.edge)
          ? "col-resize"
          : hit?.edge || hit?.boundary
            ? "ew-resize"
            : (hit?.lane === "mouth" && hit.item) || hit?.clip || hit?.sound || hit?.lane === "line"
              ? "grab"
              : "default";
    });
    const drop = (e) => {
      scrubbing = false;
      const { drag } = score.view;
      if (!drag || drag.done) return void (score.view.drag = null);
      const done = drag.acting ? this.dropActing(drag) : this.drop(drag, score.view.timeAt(e.offsetX));
      done.finally(() => (score.view.drag = null));
    };
    canvas.addEventListener("pointerup", drop);
    canvas.addEventListener("pointercancel", () => {
      scrubbing = false;
      score.view.drag = null;
    });
    canvas.addEventListener("dblclick", (e) => {
      const hit = score.view.hit(e.offsetX, e.offsetY);
      if (!hit?.item) return;
      this.setLoop({ start: Math.max(0, hit.line.start + hit.item[1] - 0.05), end: hit.line.start + hit.item[2] + 0.05 });
      player.position = this.loop.start;
      player.play();
    });
    canvas.addEventListener(
      "wheel",
      (e) => {
        if (!this.scene) return;
        if (e.ctrlKey) {
          e.preventDefault();
          score.view.zoom(e.deltaY < 0 ? 1.2 : 1 / 1.2, score.view.timeAt(e.offsetX));
        } else if (Math.abs(e.deltaX) > Math.abs(e.deltaY) || e.shiftKey) {
          e.preventDefault();
          score.view.isFitted = false;
          score.view.scroll += (e.deltaX || e.deltaY) / score.view.pixelsPerSecond;
          score.view.clampScroll();
        }
      },
      { passive: false },
    );
  },
  get loopText() {
    return this.loop ? `${this.loop.start.toFixed(2)} to ${this.loop.end.toFixed(2)} s` : "Loop off";
  },
  zoomIn() {
    score.view.zoom(1.5);
  },
  zoomOut() {
    score.view.zoom(1 / 1.5);
  },
  fit() {
    score.view.fit();
  },
  init() {
    score.view = new Score(this.$refs.score);
    score.view.map = new ScoreMap(this.$refs.map);
    score.view.needs = this.divider;
    this.$watch("divider", (name) => (score.view.needs = name));
    this.listenToSearch();
    this.setShare(this.share, false);
    this.listen();
    onKey(
      60,
      ({ name, control }) => !control && act({ "+": () => this.zoomIn(), "=": () => this.zoomIn(), "-": () => this.zoomOut(), f: () => this.fit() }, name),
    );
  },
});

export const scorePanel = () => mix(pointer(), scoreEdge(), scoreMouth(), scoreActing(), scoreKeys(), scoreLanes());
