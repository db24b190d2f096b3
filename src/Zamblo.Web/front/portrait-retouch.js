// What a hand corrects in a picture: a brush over the cut-out, and parts that are cut out and hang on a pivot. Both are drawn on the picture itself.
// Kept out of the component: none of it is to be watched.
const hand = { stroke: null, lasso: null };
// Places nearer to each other than this, in pixels of the screen, are one.
const apart = 3;

const pathOf = (points) => {
  const pairs = [];
  for (let i = 0; i < points.length; i += 2) pairs.push(`${points[i].toFixed(1)},${points[i + 1].toFixed(1)}`);
  return pairs.join(" ");
};

export const retouching = () => ({
  // "keep" or "away" while the brush is in the hand; "part" while a part is drawn around.
  tool: "",
  strokes: [],
  brush: 40,
  feather: 0.3,
  isAlone: false,
  wants: [
    { key: false, name: "swings as it is moved" },
    { key: true, name: "moves by itself" },
  ],
  get parts() {
    return (this.face?.parts ?? []).map((p, index) => ({ ...p, index, name: `Part ${index + 1}` }));
  },
  get brushText() {
    const { length } = this.strokes;
    return length ? `${length} stroke${length > 1 ? "s" : ""}` : "Paint over what is wrong.";
  },
  takeTool(tool) {
    this.tool = this.tool === tool ? "" : tool;
    this.isBoxing = false;
    if (this.tool && !this.isFree && this.tool !== "part") this.toggleFree();
    this.drawMarks();
  },
  takeBrush(event) {
    return this.takeTool(event.currentTarget.dataset.tool);
  },
  dropStrokes() {
    this.remember();
    this.strokes = [];
    this.drawMarks();
    return this.look();
  },
  // Whether a press belongs to a tool.
  pressTool([x, y, unit]) {
    if (!this.tool) return false;
    const points = [x, y];
    if (this.tool === "part") hand.lasso = { points, unit };
    // The brush is as wide on the screen as it says, however large the picture is.
    else hand.stroke = { isKept: this.tool === "keep", size: Math.max(1, this.brush * unit), feather: Number(this.feather), points, unit };
    this.drawMarks();
    return true;
  },
  dragTool(x, y) {
    const drawn = hand.stroke ?? hand.lasso;
    if (!drawn) return false;
    const [bx, by] = drawn.points.slice(-2);
    if (Math.hypot(x - bx, y - by) < apart * drawn.unit || drawn.points.length > 780) return true;
    drawn.points.push(x, y);
    this.drawMarks();
    return true;
  },
  async letToolGo() {
    const { stroke, lasso } = hand;
    Object.assign(hand, { stroke: null, lasso: null });
    if (stroke) {
      this.remember();
      const { isKept, size, feather, points } = stroke;
      this.strokes = [...this.strokes, { isKept, size, feather, points }];
      await this.look();
    } else if (lasso) {
      this.tool = "";
      if (lasso.points.length > 10) await this.addPart(lasso.points);
      else this.drawMarks();
    }
    return Boolean(stroke ?? lasso);
  },
  // It hangs where it is nearest to the middle of the face.
  addPart(points) {
    const edge = [];
    for (let i = 0; i < points.length; i += 2) edge.push({ x: points[i], y: points[i + 1] });
    const { outline } = this.face.marks;
    const middle = [outline.reduce((s, m) => s + m.x, 0) / outline.length, outline.reduce((s, m) => s + m.y, 0) / outline.length];
    const pivot = edge.toSorted((a, b) => Math.hypot(a.x - middle[0], a.y - middle[1]) - Math.hypot(b.x - middle[0], b.y - middle[1]))[0];
    return this.changeParts([...(this.face.parts ?? []), { edge, pivot: { ...pivot }, wags: false, amount: 0.5, isBehind: false }]);
  },
  changeParts(parts) {
    const done = this.change({ parts });
    this.drawMarks();
    return done;
  },
  changePart(index, change) {
    return this.changeParts(this.face.parts.map((p, i) => (i === index ? { ...p, ...change } : p)));
  },
  setWags({ index }, event) {
    return this.changePart(index, { wags: event.target.value === "true" });
  },
  setAmount({ index }, event) {
    return this.changePart(index, { amount: Number(event.target.value) });
  },
  toggleBehind({ index, isBehind }) {
    return this.changePart(index, { isBehind: !isBehind });
  },
  dropPart({ index }) {
    return this.changeParts(this.face.parts.filter((p, i) => i !== index));
  },
  // A pivot goes where it is dragged; the parts are made anew when it is let go.
  movePivot(index, x, y) {
    this.put({ parts: this.face.parts.map((p, i) => (i === index ? { ...p, pivot: { x, y } } : p)) });
    this.drawMarks();
  },
  toggleAlone() {
    this.isAlone = !this.isAlone;
    return this.look();
  },
  // What lies over the picture beside the marks.
  drawRetouch(unit, make) {
    const parts = [];
    const line = (stroke, opacity) =>
      make("polyline", {
        points: pathOf(stroke.points.length > 2 ? stroke.points : [...stroke.points, stroke.points[0] + 0.1, stroke.points[1]]),
        fill: "none",
        stroke: stroke.isKept ? "#3f8f5f" : "#c8452d",
        "stroke-width": stroke.size,
        "stroke-opacity": opacity,
        "stroke-linecap": "round",
        "stroke-linejoin": "round",
      });
    if (this.tool === "keep" || this.tool === "away") for (const stroke of this.strokes) parts.push(line(stroke, 0.3));
    if (hand.stroke) parts.push(line(hand.stroke, 0.55));
    for (const { edge, index, pivot, name } of this.parts) {
      const points = edge.map((m) => `${m.x},${m.y}`).join(" ");
      parts.push(make("polygon", { points, fill: "#2b5f7322", stroke: "#fff8ec", "stroke-width": 1.4 * unit, "stroke-dasharray": `${5 * unit} ${4 * unit}` }));
      parts.push(this.handleOf({ name: `pivot-${index}`, at: pivot, label: `Pivot of ${name}` }, unit));
    }
    if (hand.lasso) parts.push(make("polyline", { points: pathOf(hand.lasso.points), fill: "none", stroke: "#c8452d", "stroke-width": 2 * unit }));
    return parts;
  },
});

// Which part a handle is the pivot of; -1 for a mark of the face.
export const pivotOf = (name) => (name.startsWith("pivot-") ? Number(name.slice(6)) : -1);
