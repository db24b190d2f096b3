// Places that light comes from, as a list; lamps-on-stage.js is the same on the stage.
import { post } from "../../front/api.js";

export const setLamp = (panel, lamp) => post(`/api/scenes/${panel.sceneId}/lamps`, { revision: panel.revision, ...lamp });
export const takeLamp = (panel, lamp) => post(`/api/scenes/${panel.sceneId}/lamps/drop`, { revision: panel.revision, lamp });

const dials = {
  strength: ["Bright", 0, 1, 0.05, "", "How bright it is."],
  reach: ["Reach", 40, 1600, 20, "", "How far its light reaches; its ring on the stage can be dragged, too."],
  flicker: ["Flicker", 0, 1, 0.05, "", "How unsteady it burns: a bulb does not, a torch does."],
};
// Lamps nearer to each other than this, in stage units, are hard to tell apart.
const apart = 80;

export const lamps = () => ({
  pickedLamp: null,
  get lamps() {
    return this.scene.scene.light.lamps.map((l, i) => ({ ...l, name: `Lamp ${i + 1}`, isPicked: l.id === this.lamp?.id }));
  },
  // The one whose dials are shown, and whose ring is on the stage.
  get lamp() {
    return this.scene?.scene.light.lamps.find((l) => l.id === this.pickedLamp) ?? null;
  },
  get lampDials() {
    return this.lamp ? this.rows(dials, this.lamp, `lamp:${this.lamp.id}`, "Applies to this lamp.") : [];
  },
  get hasLamps() {
    return this.scene.scene.light.lamps.length > 0;
  },
  async addLamp() {
    let x = 640;
    while (this.lamps.some((l) => Math.abs(l.x - x) < apart)) x += apart;
    const made = await this.edit(() => setLamp(this, { x, y: 220 }), "A lamp. Drag it on the stage, its ring for its reach.");
    if (made) this.pickLamp(made);
  },
  colorLamp({ id }, { target: { value } }) {
    return this.edit(() => setLamp(this, { lamp: id, color: value }), null, { key: `lamp:${id}:color`, value });
  },
  turnLamp({ target: { dataset, value } }) {
    const lamp = this.pickedLamp;
    return this.letGo(dataset.held, Number(value), () => setLamp(this, { lamp, [dataset.key]: Number(value) }));
  },
  pickLamp({ id }) {
    window.dispatchEvent(new CustomEvent("lamp-picked", { detail: id }));
  },
  dropLamp({ id, name }) {
    return this.edit(() => takeLamp(this, id), `${name} is taken away.`);
  },
});
