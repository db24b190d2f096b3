// Which parts move over one line, and how much; at nought a part is off.
import { patch } from "../../front/api.js";

const texts = {
  mouth: ["Mouth", 0, 1.5, 0.05, "", "How far the mouth opens and stretches; 0 keeps it shut."],
  density: ["How many shapes", 0, 1, 0.05, "", "Fewer shapes make a calmer mouth; P, B, M, F and V stay."],
  head: ["Head", 0, 1.5, 0.05, "", "Turns, nods and tilts; 0 holds it still."],
  face: ["Face", 0, 1.5, 0.05, "", "Brows and lids; blinks stay."],
  body: ["Body", 0, 1.5, 0.05, "", "Body and hands; gestures that were laid stay."],
};
const usual = { mouth: 1, density: null, head: 1, face: 1, body: 1 };

export const lineActingPanel = () => ({
  get lineActingRows() {
    const { line } = this;
    if (!line) return [];
    const member = this.scene.members.find((m) => m.id === line.member);
    // Shapes are as many as in the member's other lines until somebody turns the dial.
    const values = { ...line.acting, density: line.acting.density ?? member?.mouth.density ?? 1 };
    return this.rows(texts, values, `acting:${line.id}`, "Applies to this line.");
  },
  get hasLineActing() {
    return Object.entries(usual).some(([key, value]) => (this.line?.acting[key] ?? null) !== value);
  },
  holdLineActing({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
  actOn(id, acting) {
    return patch(`/api/lines/${id}`, { revision: this.revision, acting });
  },
  turnLineActing({ target: { dataset, value } }) {
    const { id } = this.line;
    return this.letGo(dataset.held, Number(value), () => this.actOn(id, { [dataset.key]: Number(value) }));
  },
  freeLineActing() {
    const { id } = this.line;
    return this.edit(() => this.actOn(id, usual), "This line moves as all others do.");
  },
});
