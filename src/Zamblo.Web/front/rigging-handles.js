// The handles on the drawing: where a part turns, its end, the globe of the head, how large what is drawn anew is.
const svg = "http://www.w3.org/2000/svg";
// In pixels of the screen.
const size = 6;

// What is held, and what is seen of the stage.
const hand = { held: null, before: "", pan: null, seen: null };

const make = (name, attributes) => {
  const element = document.createElementNS(svg, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  return element;
};
const round = (x) => Math.round(x * 10) / 10;

export const handling = (view) => ({
  seen() {
    return hand.seen ?? this.whole(this.$refs.still);
  },
  // Between the drawing and the stage of the test.
  toStage([x, y]) {
    const [scale, dx, dy] = this.sheet.place;
    return [x * scale + dx, y * scale + dy];
  },
  toDrawing(x, y) {
    const [scale, dx, dy] = this.sheet.place;
    return [(x - dx) / scale, (y - dy) / scale];
  },
  // What can be dragged of the picked part: where it is, and what a drag does.
  handles() {
    const part = this.part;
    if (!part) return [];
    const { head, mouth } = this.rig;
    const at = [...part.pivot];
    const list = [];
    const put = (name, kind, [x, y], set) => list.push({ name, kind, x, y, set });
    put("where it turns", "pivot", at, (x, y) => (part.pivot = [x, y]));
    if (part.tip) put("its end", "tip", part.tip, (x, y) => (part.tip = [x, y]));
    if (part.motion === "head") {
      const [cx, cy] = head.centre;
      put("middle of the head", "globe", [cx, cy], (x, y) => (head.centre = [x, y]));
      put("half width of the head", "size", [cx + head.radius[0], cy], (x) => (head.radius = [Math.max(5, x - cx), head.radius[1]]));
      put("half height of the head", "size", [cx, cy + head.radius[1]], (_, y) => (head.radius = [head.radius[0], Math.max(5, y - cy)]));
    }
    const eye = this.rig.eyes.find((e) => e.part === part.id);
    if (eye)
      put("size of the eye", "size", [at[0] + eye.radius[0], at[1]], (x) => {
        const by = Math.max(4, x - at[0]) / eye.radius[0];
        [eye.radius, eye.pupil, eye.lash] = [eye.radius.map((r) => round(r * by)), round(eye.pupil * by), round(eye.lash * by)];
      });
    if (part.id === mouth.part && !["drawn", "stretched"].includes(mouth.style)) {
      put("half width of the mouth", "size", [at[0] + mouth.width / 2, at[1]], (x) => (mouth.width = round(Math.max(10, 2 * (x - at[0])))));
      put("height of the mouth", "size", [at[0], at[1] + 0.66 * mouth.height], (_, y) => (mouth.height = round(Math.max(8, (y - at[1]) / 0.66))));
    }
    if (part.reach)
      put("how far it goes", "size", [at[0] + part.reach[0], at[1] + part.reach[1]], (x, y) => (part.reach = [Math.max(0, x - at[0]), Math.max(0, y - at[1])]));
    return list;
  },
  drawHandles() {
    const root = this.$refs.handles;
    if (!this.rig || !root.clientWidth) return;
    const [cx, cy, across] = this.seen();
    const tall = (across * root.clientHeight) / root.clientWidth;
    const unit = across / root.clientWidth;
    root.setAttribute("viewBox", [cx - across / 2, cy - tall / 2, across, tall].join(" "));
    const parts = [];
    const box = this.sheet.boxes[this.picked];
    const scale = this.sheet.place[0];
    if (box) {
      const [x, y] = this.toStage(box);
      const line = { x, y, width: box[2] * scale, height: box[3] * scale, fill: "none", stroke: "#c8452d", "stroke-width": 1.2 * unit };
      parts.push(make("rect", { ...line, "stroke-dasharray": `${4 * unit} ${3 * unit}` }));
    }
    if (this.part?.motion === "head") {
      const [x, y] = this.toStage(this.rig.head.centre);
      const [rx, ry] = this.rig.head.radius.map((r) => r * scale);
      parts.push(make("ellipse", { cx: x, cy: y, rx, ry, fill: "none", stroke: "#2b5f73", "stroke-width": 1.2 * unit }));
    }
    this.handles().forEach((h, i) => {
      const [x, y] = this.toStage([h.x, h.y]);
      const r = size * unit;
      const common = { fill: h.kind === "size" ? "#2b5f73" : "#c8452d", stroke: "#fff8ec", "stroke-width": 1.6 * unit, class: "cursor-move" };
      const shape =
        h.kind === "pivot" ? make("circle", { cx: x, cy: y, r, ...common }) : make("rect", { x: x - r, y: y - r, width: 2 * r, height: 2 * r, ...common });
      for (const [key, value] of Object.entries({ tabindex: 0, role: "button", "aria-label": h.name, "data-handle": i })) shape.setAttribute(key, value);
      shape.append(make("title", {}));
      shape.firstChild.textContent = h.name;
      shape.addEventListener("keydown", (e) => this.nudge(e, i));
      parts.push(shape);
    });
    const focused = root.contains(document.activeElement) ? document.activeElement.dataset.handle : null;
    root.replaceChildren(...parts);
    if (focused != null) root.querySelector(`[data-handle="${focused}"]`)?.focus();
  },
  point(event) {
    const box = this.$refs.handles.getBoundingClientRect();
    const [cx, cy, across] = this.seen();
    const unit = across / box.width;
    return [cx + (event.clientX - box.left - box.width / 2) * unit, cy + (event.clientY - box.top - box.height / 2) * unit, unit];
  },
  press(event) {
    if (!this.rig || event.button !== 0) return;
    const [x, y] = this.point(event);
    this.$refs.handles.setPointerCapture(event.pointerId);
    const handle = event.target.dataset?.handle;
    if (handle != null) {
      event.target.focus();
      Object.assign(hand, { held: Number(handle), before: this.state() });
      return;
    }
    const box = this.$refs.still.getBoundingClientRect();
    const ratio = this.$refs.still.width / box.width;
    const shape = view.still.shapeAt(view.rest, (event.clientX - box.left) * ratio, (event.clientY - box.top) * ratio);
    const id = this.sheet.shapeParts[shape - view.back];
    if (shape >= 0 && id) this.pick(id.replace(/\.\d+$/, ""));
    hand.pan = [x, y];
  },
  drag(event) {
    if (hand.held == null && !hand.pan) return;
    const [x, y] = this.point(event);
    if (hand.held != null) this.put(hand.held, ...this.toDrawing(x, y));
    else if (event.buttons && hand.seen) {
      hand.seen = [hand.seen[0] + hand.pan[0] - x, hand.seen[1] + hand.pan[1] - y, hand.seen[2]];
      this.drawHandles();
    }
  },
  // While it is dragged the figure follows; a step is made of it when it is let go.
  put(which, x, y) {
    this.handles()[which]?.set(round(x), round(y));
    this.drawHandles();
    clearTimeout(view.timer);
    view.timer = setTimeout(() => this.look(), 50);
  },
  letGo() {
    if (hand.held != null && hand.before !== this.state()) {
      this.step(hand.before);
      clearTimeout(view.timer);
      this.look();
    }
    Object.assign(hand, { held: null, pan: null });
  },
  nudge(event, which) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way) return;
    event.preventDefault();
    const by = event.shiftKey ? 10 : 1;
    const handle = this.handles()[which];
    this.step();
    this.put(which, handle.x + way[0] * by, handle.y + way[1] * by);
  },
  zoom(event) {
    if (!this.rig) return;
    const [x, y] = this.point(event);
    const [cx, cy, across] = this.seen();
    const by = event.deltaY > 0 ? 1.15 : 1 / 1.15;
    const all = this.whole(this.$refs.still);
    if (across * by >= all[2]) hand.seen = null;
    else if (across * by > 60) hand.seen = [x + (cx - x) * by, y + (cy - y) * by, across * by];
    this.drawHandles();
  },
});
