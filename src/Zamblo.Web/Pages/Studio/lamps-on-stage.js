// Lamps on the stage while Set is open: dragged, moved by arrows, made to reach farther by their ring or by plus and minus, taken away by Delete.
import { pointOf } from "./aim.js";
import { setLamp, takeLamp } from "./lamps.js";

const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
const least = 40;
const most = 1600;

export const lampsOnStage = () => ({
  // What is being dragged, and whether that is its ring; and the one whose ring is shown.
  heldLamp: null,
  ringed: null,
  get lampsShown() {
    if (!this.isOpen || !this.over.view) return [];
    const [scale, left, top] = this.over.view;
    const { ratio } = this.over;
    return this.scene.scene.light.lamps
      .map((l, i) => ({ ...l, name: `Lamp ${i + 1}`, ...(l.id === this.heldLamp?.id ? this.heldLamp.now : {}) }))
      .map((l) => {
        const size = (2 * l.reach * scale) / ratio;
        return {
          ...l,
          style: { left: `${(l.x * scale + left) / ratio}px`, top: `${(l.y * scale + top) / ratio}px`, backgroundColor: l.color },
          ring: { width: `${size}px`, height: `${size}px` },
          isRinged: this.ringed === l.id,
        };
      });
  },
  ringLamp({ id }) {
    if (this.ringed !== id) window.dispatchEvent(new CustomEvent("lamp-picked", { detail: id }));
  },
  grabLamp(lamp, event, isRing = false) {
    if (event.button !== 0) return;
    const from = pointOf(event, this.$refs.over, this.over);
    this.ringLamp(lamp);
    this.heldLamp = { id: lamp.id, isRing, from, start: lamp, now: {} };
    event.target.setPointerCapture(event.pointerId);
  },
  grabRing(lamp, event) {
    return this.grabLamp(lamp, event, true);
  },
  dragLamp(event) {
    const { heldLamp } = this;
    if (!heldLamp || !event.target.hasPointerCapture(event.pointerId)) return;
    const [x, y] = pointOf(event, this.$refs.over, this.over);
    const { start, from } = heldLamp;
    heldLamp.now = heldLamp.isRing
      ? { reach: Math.round(Math.min(most, Math.max(least, Math.hypot(x - start.x, y - start.y)))) }
      : { x: Math.round(start.x + x - from[0]), y: Math.round(start.y + y - from[1]) };
  },
  async dropHeldLamp() {
    const { heldLamp } = this;
    if (heldLamp && Object.keys(heldLamp.now).length) await this.putLamp(heldLamp.start, heldLamp.now);
    if (this.heldLamp === heldLamp) this.heldLamp = null;
  },
  letLampBe() {
    this.heldLamp = null;
  },
  putLamp({ id }, change) {
    return this.edit(() => setLamp(this, { lamp: id, ...change }), null, { key: `lamp:${id}:${Object.keys(change)}`, value: Object.values(change).join() });
  },
  lampKey(lamp, event) {
    const { key } = event;
    const far = event.shiftKey ? 24 : 4;
    const [x, y] = steps[key] ?? [0, 0];
    const change =
      x || y
        ? { x: lamp.x + x * far, y: lamp.y + y * far }
        : key === "+" || key === "-"
          ? { reach: Math.min(most, Math.max(least, lamp.reach * (key === "+" ? 1.1 : 1 / 1.1))) }
          : null;
    if (!change && key !== "Delete") return;
    event.preventDefault();
    event.stopPropagation();
    return change ? this.putLamp(lamp, change) : this.edit(() => takeLamp(this, lamp.id), `${lamp.name} is taken away.`);
  },
});
