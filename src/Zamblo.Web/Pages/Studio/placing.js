// Members are put where they stand, on the stage itself: dragged, made larger at a corner, moved by keys. Handles are there while Set is open.
import { post } from "../../front/api.js";
import { memberAt } from "./aim.js";
import { stage } from "./shared.js";

// Keys that follow each other within so many milliseconds are one step.
const together = 500;
const steps = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
const styleOf = (box) => Object.fromEntries(["left", "top", "width", "height"].map((k) => [k, `${box[k]}px`]));
// What is being dragged: not for Alpine to wrap.
let held = null;

export const placingPanel = () => ({
  isSet: localStorage.getItem("divider") === "Set",
  over: { left: 0, top: 0, width: 0, height: 0, ratio: 1, view: null },
  // How far whoever is picked is from where it stands: across, up, and by which factor.
  moved: null,
  under: false,
  init() {
    stage.onShown = () => this.lay();
  },
  get isOpen() {
    return this.isSet && !this.isPerforming && this.scene !== null;
  },
  // Follows the picture and what the camera sees; written down only when it is another one.
  lay() {
    const { painter } = stage;
    const { canvas, seen } = painter;
    if (!this.isSet || !seen) return;
    const key = [canvas.offsetLeft, canvas.offsetTop, canvas.clientWidth, canvas.clientHeight, ...seen].join();
    if (key === held?.key) return;
    held = { ...held, key };
    const ratio = canvas.width / canvas.clientWidth;
    this.over = { left: canvas.offsetLeft, top: canvas.offsetTop, width: canvas.clientWidth, height: canvas.clientHeight, ratio, view: [...seen] };
  },
  get overStyle() {
    return styleOf(this.over);
  },
  get box() {
    if (!this.isOpen || !this.member || !this.over.view) return null;
    const { box, x, y, isFixed } = this.member.stands;
    const [scale, left, top] = this.over.view;
    const { ratio } = this.over;
    const [dx, up, by] = this.moved ?? [0, 0, 1];
    const at = (value, from, off) => (from + (value - from) * by + off) * scale;
    const corner = { left: at(box[0], x, dx) + left, top: at(box[1], y, -up) + top };
    const style = styleOf({ left: corner.left / ratio, top: corner.top / ratio, width: (box[2] * by * scale) / ratio, height: (box[3] * by * scale) / ratio });
    const label = `${this.member.roleName} on the stage: arrow keys move, plus and minus make larger and smaller`;
    return { style, label, isFixed, isUnder: corner.top < 12 * ratio };
  },
  // A place of the pointer in stage units.
  pointOf(event) {
    const { x, y } = this.$refs.over.getBoundingClientRect();
    const [scale, left, top] = this.over.view;
    const { ratio } = this.over;
    return [((event.clientX - x) * ratio - left) / scale, ((event.clientY - y) * ratio - top) / scale];
  },
  whoIsAt(event) {
    const { x, y } = this.$refs.over.getBoundingClientRect();
    const pixel = [(event.clientX - x) * this.over.ratio, (event.clientY - y) * this.over.ratio];
    return memberAt(this.scene.members, this.frame, pixel, this.pointOf(event));
  },
  grab(event) {
    if (event.button !== 0 || !this.over.view) return;
    const who = this.whoIsAt(event);
    if (!who) return;
    this.selectMember(who);
    if (!who.stands.isFixed) this.begin(event, false);
    this.$nextTick(() => this.$refs.over.querySelector(".stands")?.focus({ preventScroll: true }));
  },
  grabSize(event) {
    this.begin(event, true);
  },
  begin(event, isSize) {
    const stands = this.member.stands;
    const from = this.pointOf(event);
    held = { ...held, pointer: event.pointerId, from, isSize, away: Math.hypot(from[0] - stands.x, from[1] - stands.y) };
    this.$refs.over.setPointerCapture(event.pointerId);
  },
  drag(event) {
    if (held?.pointer !== event.pointerId) {
      // Hovering: what can be taken shows it.
      this.under = event.pointerType === "mouse" && this.over.view !== null && this.whoIsAt(event) !== null;
      return;
    }
    const [x, y] = this.pointOf(event);
    const stands = this.member.stands;
    if (held.isSize) {
      const by = Math.hypot(x - stands.x, y - stands.y) / Math.max(1, held.away);
      return this.preview(0, 0, Math.min(4 / stands.size, Math.max(0.25 / stands.size, by)));
    }
    let [dx, up] = [x - held.from[0], held.from[1] - y];
    // Shift keeps to one direction.
    if (event.shiftKey) [dx, up] = Math.abs(dx) > Math.abs(up) ? [dx, 0] : [0, up];
    // Near its own ground it stands on it.
    if (Math.abs(stands.lift + up) < 6) up = -stands.lift;
    this.preview(dx, up, 1);
  },
  preview(dx, up, by) {
    this.moved = [dx, up, by];
    const { first, count, x, y } = this.member.stands;
    const put = (item) => {
      const [i, a, b, c, d, e, f, ...rest] = item;
      return [i, a * by, b * by, c * by, d * by, x + (e - x) * by + dx, y + (f - y) * by - up, ...rest];
    };
    const now = stage.frames.get(this.frame, 0);
    if (now)
      stage.showOver(
        this.frame,
        now
          .slice(first, first + count)
          .filter(Boolean)
          .map(put),
      );
  },
  drop() {
    if (held?.pointer === undefined) return;
    held.pointer = undefined;
    return this.settle();
  },
  letBe() {
    if (held) held.pointer = undefined;
    this.moved = null;
    stage.showAgain();
  },
  // What was previewed is kept; a click alone moves nobody.
  async settle() {
    const [dx, up, by] = this.moved ?? [0, 0, 1];
    if (Math.abs(dx) < 1 && Math.abs(up) < 1 && Math.abs(by - 1) < 0.01) return this.letBe();
    const { id, stands } = this.member;
    const place = by === 1 ? { x: stands.x + dx, lift: stands.lift + up } : { size: stands.size * by };
    await this.edit(() => post(`/api/scenes/${this.sceneId}/places`, { revision: this.revision, member: id, ...place }));
    this.letBe();
  },
  placeKey(event) {
    if (event.ctrlKey || event.metaKey || event.altKey || this.member.stands.isFixed) return;
    const [dx, up, by] = this.moved ?? [0, 0, 1];
    const step = steps[event.key];
    const larger = { "+": 1.05, "=": 1.05, "-": 1 / 1.05 }[event.key];
    if (!step && !larger && event.key !== "Escape") return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === "Escape") return this.letBe();
    const far = event.shiftKey ? 24 : 4;
    if (step) this.preview(dx + far * step[0], up + far * step[1], 1);
    else this.preview(0, 0, by * larger);
    clearTimeout(held?.timer);
    held = { ...held, timer: setTimeout(() => this.settle(), together) };
  },
});
