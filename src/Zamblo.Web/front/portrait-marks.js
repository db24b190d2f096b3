// The picture with its marks: drawn, dragged, boxed. What a drag does to the rest of the face the server says.
import { post } from "./api.js";
import { pivotOf } from "./portrait-retouch.js";

const svg = "http://www.w3.org/2000/svg";
// In pixels of the screen.
const handleSize = 5;
const reach = 14;

// Kept out of the component: none of it is to be watched.
const hand = { held: "", from: null, box: null, view: null, elements: new Map(), queue: Promise.resolve(), waits: null };

const make = (name, attributes) => {
  const element = document.createElementNS(svg, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  return element;
};

export const marking = () => ({
  isBoxing: false,
  boxKind: "person",
  isPaired: true,
  picked: "",
  // So much of the picture as the face needs, or all of it.
  frame(all) {
    const { width, height } = this.picture;
    const outline = this.face?.marks.outline;
    if (all || !outline) hand.view = [0, 0, width, height];
    else {
      const [xs, ys] = [outline.map((m) => m.x), outline.map((m) => m.y)];
      const side = 1.5 * Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys));
      hand.view = [(Math.min(...xs) + Math.max(...xs) - side) / 2, (Math.min(...ys) + Math.max(...ys) - side) / 2, side, side];
    }
    this.drawMarks();
  },
  drawMarks() {
    const root = this.$refs.marks;
    if (!this.picture) return;
    root.setAttribute("viewBox", hand.view.join(" "));
    const unit = hand.view[2] / Math.max(1, Math.min(root.clientWidth, root.clientHeight));
    const parts = [make("image", { href: `/api/pictures/${this.picture.hash}`, width: this.picture.width, height: this.picture.height })];
    this.faces.forEach((face, i) => {
      const isShown = i === this.shown;
      for (const line of face.lines)
        parts.push(
          make("polyline", {
            points: line.map((m) => `${m.x},${m.y}`).join(" "),
            fill: "none",
            stroke: isShown ? "#fff8ec" : "#fff8ec88",
            "stroke-width": 1.4 * unit,
            class: "mark-line",
          }),
        );
      if (isShown) for (const h of face.handles) parts.push(this.handleOf(h, unit));
    });
    parts.push(...this.drawRetouch(unit, make));
    if (hand.box) {
      const [x, y, width, height] = hand.box;
      parts.push(make("rect", { x, y, width, height, fill: "none", stroke: "#c8452d", "stroke-width": 2 * unit }));
    }
    const focused = document.activeElement?.dataset?.handle;
    root.replaceChildren(...parts);
    if (focused) root.querySelector(`[data-handle="${focused}"]`)?.focus();
  },
  handleOf({ name, at, label }, unit) {
    const isPicked = name === this.picked;
    const dot = make("circle", {
      cx: at.x,
      cy: at.y,
      r: (isPicked ? 1.4 : 1) * handleSize * unit,
      fill: isPicked ? "#c8452d" : "#2b5f73",
      stroke: "#fff8ec",
      "stroke-width": 1.4 * unit,
      tabindex: 0,
      role: "button",
      "aria-label": label ?? name.replaceAll("-", " "),
      "data-handle": name,
      class: "cursor-move",
    });
    dot.addEventListener("focus", () => (this.picked = name));
    return dot;
  },
  // From the screen to the picture.
  at(event) {
    const matrix = this.$refs.marks.getScreenCTM().inverse();
    const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    return [p.x, p.y, matrix.a];
  },
  press(event) {
    const [x, y, unit] = this.at(event);
    this.$refs.marks.setPointerCapture(event.pointerId);
    if (this.pressTool([x, y, unit])) return;
    if (this.isBoxing) {
      hand.box = [x, y, 0, 0];
      hand.from = [x, y];
      return;
    }
    const away = (h) => Math.hypot(h.at.x - x, h.at.y - y);
    const pivots = this.parts.map(({ index, pivot }) => ({ name: `pivot-${index}`, at: pivot }));
    const near = [...(this.face?.handles ?? []), ...pivots].toSorted((a, b) => away(a) - away(b))[0];
    if (near && away(near) < reach * unit) {
      this.remember();
      this.picked = hand.held = near.name;
      return;
    }
    // Another face, or the picture itself.
    const other = this.faces.findIndex((f) => inBox(f.marks.outline, x, y));
    if (other >= 0 && other !== this.shown) this.show(other);
    else hand.from = [x, y];
  },
  drag(event) {
    const [x, y] = this.at(event);
    if (this.dragTool(x, y)) return;
    if (hand.box) {
      const [fx, fy] = hand.from;
      hand.box = [Math.min(x, fx), Math.min(y, fy), Math.abs(x - fx), Math.abs(y - fy)];
      this.drawMarks();
    } else if (hand.held) this.move(hand.held, x, y);
    else if (hand.from && event.buttons) {
      hand.view = [hand.view[0] + hand.from[0] - x, hand.view[1] + hand.from[1] - y, hand.view[2], hand.view[3]];
      this.drawMarks();
    }
  },
  async letGo() {
    if (await this.letToolGo()) return;
    const { held, box } = hand;
    Object.assign(hand, { held: "", from: null, box: null });
    if (box) {
      this.isBoxing = false;
      if (box[2] > 8 && box[3] > 8) await this.addBox(box);
      else this.drawMarks();
    } else if (held) {
      await hand.queue;
      await this.look();
    }
  },
  // One after the other, the newest place only.
  move(handle, x, y) {
    if (pivotOf(handle) >= 0) {
      this.movePivot(pivotOf(handle), x, y);
      return hand.queue;
    }
    hand.waits = { handle, x, y, isPaired: this.isPaired };
    hand.queue = hand.queue.then(async () => {
      const wish = hand.waits;
      if (!wish) return;
      hand.waits = null;
      try {
        const moved = await post("/api/portraits/moved", { marks: this.face.marks, ...wish });
        this.put(moved);
        this.drawMarks();
      } catch (e) {
        this.error = e.message;
      }
    });
    return hand.queue;
  },
  // When what a drag has sent is back: nothing that comes later undoes what is done then.
  settled() {
    return hand.queue;
  },
  async nudge(dx, dy) {
    const pivot = this.face?.parts?.[pivotOf(this.picked)]?.pivot;
    const handle = pivot ? { name: this.picked, at: pivot } : this.face?.handles.find((h) => h.name === this.picked);
    if (!handle) return;
    this.remember();
    await this.move(handle.name, handle.at.x + dx, handle.at.y + dy);
    clearTimeout(this.nudgeTimer);
    this.nudgeTimer = setTimeout(() => this.look(), 400);
  },
  startBox() {
    this.isBoxing = !this.isBoxing;
    this.tool = "";
    if (this.isBoxing) this.frame(true);
  },
  async addBox([left, top, width, height]) {
    try {
      const found = await post("/api/portraits/guess", { picture: this.picture.hash, left, top, width, height, kind: this.boxKind });
      this.remember();
      this.addFace(found, { person: "person", animal: "creature", thing: "thing" }[this.boxKind]);
      this.frame(false);
      await this.look();
    } catch (e) {
      this.error = e.message;
    }
  },
  zoom(event) {
    if (!hand.view) return;
    const [x, y] = this.at(event);
    const by = event.deltaY > 0 ? 1.15 : 1 / 1.15;
    const [vx, vy, w, h] = hand.view;
    if (w * by > 4 * this.picture.width || w * by < 20) return;
    hand.view = [x - (x - vx) * by, y - (y - vy) * by, w * by, h * by];
    this.drawMarks();
  },
});

function inBox(outline, x, y) {
  const [xs, ys] = [outline.map((m) => m.x), outline.map((m) => m.y)];
  return x > Math.min(...xs) && x < Math.max(...xs) && y > Math.min(...ys) && y < Math.max(...ys);
}
