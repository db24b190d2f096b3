// The rig bench: what a drawing's parts are, where they turn and what moves them, with the result moving beside it.
import Alpine from "@alpinejs/csp";
import { applyTheme, get, post } from "./api.js";
import { StagePainter, unpacked } from "./stage.js";
import { handling } from "./rigging-handles.js";
import { partDials } from "./rigging-part.js";

applyTheme();

const signs = {
  There: { sign: "●", colour: "text-leaf", word: "there: " },
  StandIn: { sign: "◐", colour: "text-amber", word: "stands in: " },
  Missing: { sign: "○", colour: "text-soft", word: "missing: " },
};

// Kept out of the component: frames are not to be watched.
const view = { live: null, still: null, frames: [], begun: 0, wanted: 0, timer: 0 };

const bench = () => ({
  key: "",
  isOwn: false,
  rig: null,
  order: [],
  sheet: null,
  found: [],
  warnings: [],
  picked: "",
  past: [],
  future: [],
  test: "head",
  error: "",
  said: "",
  async init() {
    view.live = new StagePainter(this.$refs.live);
    view.still = new StagePainter(this.$refs.still);
    this.key = this.$root.dataset.character;
    this.warnings = JSON.parse(sessionStorage.getItem(`warnings/${this.key}`) ?? "[]");
    try {
      this.take_(await get(`/api/characters/${this.key}/rig`));
      await this.look();
    } catch (e) {
      this.error = e.message;
    }
    const tick = () => {
      this.draw();
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  },
  take_(sheet) {
    this.sheet = sheet;
    this.rig = sheet.rig;
    this.order = sheet.order;
    this.isOwn = sheet.isOwn;
    this.found = sheet.findings;
  },
  draw() {
    if (!view.frames.length || !view.live.shapes) return;
    for (const [painter, canvas] of [
      [view.live, this.$refs.live],
      [view.still, this.$refs.still],
    ])
      painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
    view.live.look(this.whole(this.$refs.live));
    view.live.drawNew(view.frames[Math.floor(((performance.now() - view.begun) / 1000) * 25) % view.frames.length]);
    const { width, height } = this.$refs.still;
    const key = `${view.wanted} ${width} ${height} ${this.seen()}`;
    if (key === view.shown && view.restShown === view.rest) return;
    [view.shown, view.restShown] = [key, view.rest];
    view.still.share(view.live);
    view.still.look(this.seen());
    view.still.draw(view.rest);
    this.drawHandles();
  },
  // All of the figure: the middle of the stage of the test, and stage units across.
  whole(canvas) {
    return [640, 360, Math.max((740 * canvas.clientWidth) / canvas.clientHeight, 1.12 * this.sheet.size[0] * this.sheet.place[0])];
  },
  get draft() {
    return { rig: this.rig, order: this.order, test: this.test };
  },
  // What is looked at last is what is shown, whatever comes back first.
  async look() {
    const number = ++view.wanted;
    const base = `/api/characters/${this.key}/rig`;
    try {
      const [shapes, rest, frames, found] = await Promise.all([
        post(`${base}/shapes`, this.draft),
        post(`${base}/frames`, { ...this.draft, test: null }),
        post(`${base}/frames`, this.draft),
        post(`${base}/findings`, this.draft),
      ]);
      if (number !== view.wanted) return;
      await view.live.take(shapes);
      view.back = shapes.back;
      view.rest = unpacked(rest)[0];
      view.frames = unpacked(frames);
      view.begun ||= performance.now();
      this.found = found;
      this.error = "";
      this.drawHandles();
    } catch (e) {
      if (number === view.wanted) this.error = e.message;
    }
  },
  watch(test) {
    this.test = test;
    view.begun = performance.now();
    return this.look();
  },
  state() {
    return JSON.stringify({ rig: this.rig, order: this.order });
  },
  restore(text) {
    Object.assign(this, JSON.parse(text));
    return this.look();
  },
  // Every change is a step that can be taken back.
  step(before = this.state()) {
    this.past.push(before);
    this.future = [];
    this.said = "";
  },
  undo() {
    if (!this.past.length) return;
    this.future.push(this.state());
    return this.restore(this.past.pop());
  },
  redo() {
    if (!this.future.length) return;
    this.past.push(this.state());
    return this.restore(this.future.pop());
  },
  keys(event) {
    if (!(event.ctrlKey || event.metaKey)) return;
    const key = event.key.toLowerCase();
    if (key !== "z" && key !== "s") return;
    event.preventDefault();
    if (key === "s") this.save();
    else if (event.shiftKey) this.redo();
    else this.undo();
  },
  async save() {
    if (!this.past.length) return;
    try {
      const { key } = await post(`/api/characters/${this.key}/rig`, { rig: this.rig, order: this.order });
      this.key = key;
      this.isOwn = true;
      [this.past, this.future] = [[], []];
      this.rig = (await get(`/api/characters/${key}/rig`)).rig;
      history.replaceState(null, "", `/rig/${key}`);
      this.said = `${this.rig.name} is in Casting.`;
      this.error = "";
    } catch (e) {
      this.error = e.message;
    }
  },
  get tests() {
    return this.sheet?.tests ?? [];
  },
  get findings() {
    return this.found.map((f) => ({ ...f, ...signs[f.state] }));
  },
  name(id) {
    return id.replace(/[-_]/g, " ");
  },
  // Front first, as layers are listed; what only holds others together is not seen, and has no place among them.
  get list() {
    if (!this.rig) return [];
    const anew = [this.rig.mouth, ...(this.rig.eyes ?? []), ...(this.rig.brows ?? [])].map((p) => p.part);
    return this.order
      .filter((id) => this.sheet.boxes[id] || anew.includes(id))
      .toReversed()
      .map((id) => ({ id, name: this.name(id), isPicked: id === this.picked }));
  },
  get part() {
    return this.rig?.parts.find((p) => p.id === this.picked) ?? null;
  },
  pickFound(finding) {
    this.pick(finding.parts[0]);
  },
  pick(id) {
    this.picked = id ?? "";
    this.drawHandles();
  },
  move_(id, to) {
    const order = this.order.filter((o) => o !== id);
    order.splice(Math.max(0, Math.min(order.length, to)), 0, id);
    if (String(order) === String(this.order)) return;
    this.step();
    this.order = order;
    return this.look();
  },
  forward(by) {
    return this.move_(this.picked, this.order.indexOf(this.picked) + by);
  },
  take(id) {
    this.held = id;
  },
  drop(id) {
    const [from, to] = [this.order.indexOf(this.held), this.order.indexOf(id)];
    if (this.held && from >= 0 && to >= 0) this.move_(this.held, to);
    this.held = "";
  },
});

const whole = (...pieces) => Object.defineProperties({ held: "" }, Object.assign({}, ...pieces.map((p) => Object.getOwnPropertyDescriptors(p))));
Alpine.data("rigging", () => whole(bench(), handling(view), partDials()));
Alpine.start();
