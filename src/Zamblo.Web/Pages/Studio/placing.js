// Members and props are put where they stand, on the stage itself: dragged, made larger at a corner, moved by keys. Handles are there while Set is open.
import { pointOf, thingAt } from "./aim.js";
import { mix } from "./mix.js";
import { onStage } from "./on-stage.js";
import { placed, placeOf, sizeOf, styleOf, walkedBy } from "./placed.js";
import { stage } from "./shared.js";

// Keys that follow each other within so many milliseconds are one step.
const together = 500;
const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
// What is being dragged: not for Alpine to wrap.
let held = null;

const placing = () => ({
  isSet: localStorage.getItem("divider") === "Set",
  over: { ratio: 1, view: null, width: 0 },
  // Where somebody is to stand, as long as it does not yet: who, across, above its ground, and how large.
  moved: null,
  under: false,
  init() {
    stage.onShown = () => this.follow();
  },
  get isOpen() {
    return this.isSet && !this.isPerforming && this.scene !== null;
  },
  // Follows the picture and what the camera sees; written down only when it is another one.
  follow() {
    const { painter } = stage;
    const { canvas, seen } = painter;
    if (!this.isSet || !seen) return;
    const ratio = canvas.width / canvas.clientWidth;
    const key = [ratio, ...seen].join();
    if (key === held?.key) return;
    held = { ...held, key };
    this.over = { ratio, view: [...seen], width: canvas.clientWidth };
  },
  // From where whoever is picked stands to where it is to stand: across, up, and by which factor.
  get way() {
    const { moved, thing } = this;
    return moved?.id === thing.id ? [moved.x - thing.x, moved.lift - thing.lift, moved.size / thing.size] : [0, 0, 1];
  },
  get box() {
    if (!this.isOpen || !this.thing || this.isInHand || !this.over.view) return null;
    const { box, x, y, isFixed, name } = this.thing;
    const [scale, left, top] = this.over.view;
    const { ratio } = this.over;
    const [dx, up, by] = this.way;
    const at = (value, from, off) => (from + (value - from) * by + off) * scale;
    const corner = { left: at(box[0], x, dx + walkedBy(this.scene, this.frame, this.thing)) + left, top: at(box[1], y, -up) + top };
    const style = styleOf({ left: corner.left / ratio, top: corner.top / ratio, width: (box[2] * by * scale) / ratio, height: (box[3] * by * scale) / ratio });
    const label = `${name} on the stage: arrow keys move, plus and minus make larger and smaller`;
    return { style, label, isFixed, isUnder: corner.top < 12 * ratio };
  },
  pointOf(event) {
    return pointOf(event, this.$refs.over, this.over);
  },
  whatIsAt(event) {
    return thingAt(this.scene, this.frame, event, this.$refs.over, this.over);
  },
  grab(event) {
    if (event.button !== 0 || !this.over.view) return;
    const what = this.whatIsAt(event);
    if (!what) return;
    if (this.moved) this.settle();
    this.moved = null;
    this.pickThing(what);
    if (!this.thing.isFixed && !this.isInHand) this.begin(event, false);
    this.$nextTick(() => this.$refs.over.querySelector(".stands")?.focus({ preventScroll: true }));
  },
  grabSize(event) {
    this.begin(event, true);
  },
  begin(event, isSize) {
    const { thing } = this;
    const from = this.pointOf(event);
    held = { ...held, pointer: event.pointerId, from, start: placeOf(thing), isSize, away: Math.hypot(from[0] - thing.x, from[1] - thing.y) };
    this.$refs.over.setPointerCapture(event.pointerId);
  },
  drag(event) {
    if (held?.pointer !== event.pointerId) {
      // Hovering: what can be taken shows it.
      this.under = event.pointerType === "mouse" && this.over.view !== null && this.whatIsAt(event) !== null;
      return;
    }
    const [x, y] = this.pointOf(event);
    const { start, from } = held;
    if (held.isSize) {
      const { thing } = this;
      return this.preview({ ...start, size: sizeOf((start.size * Math.hypot(x - thing.x, y - thing.y)) / Math.max(1, held.away)) });
    }
    let [dx, up] = [x - from[0], from[1] - y];
    // Shift keeps to one direction.
    if (event.shiftKey) [dx, up] = Math.abs(dx) > Math.abs(up) ? [dx, 0] : [0, up];
    // Near its own ground somebody stands on it.
    const lift = !this.thing.isProp && Math.abs(start.lift + up) < 6 ? 0 : start.lift + up;
    this.preview({ ...start, x: this.thing.isProp ? start.x + dx : this.onMark(start.x + dx), lift });
  },
  preview(place) {
    this.moved = place;
    const { spans, x, y } = this.thing;
    const [dx, up, by] = this.way;
    const put = ([i, a, b, c, d, e, f, ...rest]) => [i, a * by, b * by, c * by, d * by, x + (e - x) * by + dx, y + (f - y) * by - up, ...rest];
    const items = stage.frames.get(this.frame, 0);
    if (!items) return;
    const own = spans.flatMap(([first, count]) => items.slice(first, first + count));
    stage.showOver(this.frame, own.filter(Boolean).map(put));
  },
  drop() {
    if (held?.pointer === undefined) return;
    held.pointer = undefined;
    return this.settle();
  },
  letBe() {
    clearTimeout(held?.timer);
    held = { ...held, pointer: undefined };
    this.moved = null;
    stage.showAgain();
  },
  // What was previewed is kept; a click alone moves nobody.
  async settle() {
    clearTimeout(held?.timer);
    const { moved } = this;
    const thing = moved && this.thingBy(moved.id);
    const isMoved = thing && (Math.abs(moved.x - thing.x) >= 1 || Math.abs(moved.lift - thing.lift) >= 1);
    const isSized = thing && Math.abs(moved.size / thing.size - 1) >= 0.01;
    if (!isMoved && !isSized) return this.letBe();
    const place = { ...(isMoved ? { x: moved.x, lift: moved.lift } : {}), ...(isSized ? { size: moved.size } : {}) };
    await this.edit(() => this.keepPlace(thing, place));
    // Somebody may be on the way again meanwhile.
    if (this.moved === moved) this.letBe();
  },
  placeKey(event) {
    const { thing } = this;
    if (event.ctrlKey || event.metaKey || event.altKey || thing.isFixed) return;
    const step = steps[event.key];
    const larger = { "+": 1.05, "=": 1.05, "-": 1 / 1.05 }[event.key];
    if (!step && !larger && event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Escape") return this.letBe();
    const from = this.moved?.id === thing.id ? this.moved : placeOf(thing);
    const far = event.shiftKey ? 24 : 4;
    if (step) this.preview({ ...from, x: from.x + far * step[0], lift: from.lift + far * step[1] });
    else this.preview({ ...from, size: sizeOf(from.size * larger) });
    clearTimeout(held?.timer);
    held = { ...held, timer: setTimeout(() => this.settle(), together) };
  },
});

export const placingPanel = () => mix(placing(), placed(), onStage());
