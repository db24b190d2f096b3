// Marks as crosses of tape on the stage's floor while Set is open: dragged, moved by arrows; whoever is dragged stands on the one that is near.
import { pointOf } from "./aim.js";
import { setMark } from "./marks.js";

// Where feet are in most sets, in stage units; so near, somebody stands on a mark.
const floor = 700;
const near = 12;

export const marksOnStage = () => ({
  heldMark: null,
  get marksShown() {
    if (!this.isOpen || !this.over.view) return [];
    const [scale, left, top] = this.over.view;
    const { ratio, width } = this.over;
    return this.scene.scene.marks
      .map((m) => (m.id === this.heldMark?.id ? { ...m, x: this.heldMark.x } : m))
      .map((m) => ({ ...m, at: (m.x * scale + left) / ratio, top: (floor * scale + top) / ratio }))
      .filter((m) => m.at >= 0 && m.at <= width)
      .map((m) => ({ ...m, style: { left: `${m.at}px`, top: `${m.top}px` } }));
  },
  grabMark(mark, event) {
    if (event.button !== 0) return;
    this.heldMark = { id: mark.id, x: mark.x, from: mark.x };
    event.target.setPointerCapture(event.pointerId);
  },
  dragMark(event) {
    if (!this.heldMark || !event.target.hasPointerCapture(event.pointerId)) return;
    this.heldMark.x = Math.round(pointOf(event, this.$refs.over, this.over)[0]);
  },
  async dropMark(mark) {
    const { heldMark } = this;
    if (heldMark && heldMark.x !== heldMark.from) await this.putMark(mark, heldMark.x);
    if (this.heldMark === heldMark) this.heldMark = null;
  },
  letMarkBe() {
    this.heldMark = null;
  },
  putMark({ id }, x) {
    return this.edit(() => setMark(this, { mark: id, x }), null, { key: `mark:${id}`, value: x });
  },
  markKey(mark, event) {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    return this.putMark(mark, mark.x + step * (event.shiftKey ? 24 : 4));
  },
  // The mark that a place is on; else the place itself.
  onMark(x) {
    return this.scene.scene.marks.find((m) => Math.abs(m.x - x) < near)?.x ?? x;
  },
});
