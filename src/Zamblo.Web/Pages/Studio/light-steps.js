// The light becomes another one within the scene: from a word on, or from the playhead.
import { patch, post } from "../../front/api.js";

const percentOf = (share) => (share === null || share === undefined ? "" : Math.round(100 * share));
// An empty field leaves it as it is.
const shareOf = ({ target: { value } }) => (value === "" ? -1 : Math.min(1, Math.max(0, Number(value) / 100)));

export const lightSteps = () => ({
  lightTo: "Night",
  get lightSteps() {
    return this.scene.clips
      .filter((c) => c.kind === "light")
      .sort((a, b) => a.start - b.start)
      .map(({ id, name, start, end, air, lamps }) => ({
        id,
        light: name,
        start,
        at: `${start.toFixed(1)} s`,
        takes: (end - start).toFixed(1),
        air: percentOf(air),
        lamps: percentOf(lamps),
      }));
  },
  get hasAir() {
    return this.scene.scene.light.weather !== "Clear";
  },
  get stepText() {
    const { isWord, isHere } = this.target;
    return `From ${isWord ? `“${this.pickedWord[0]}”` : isHere ? "here" : "what is picked"} on`;
  },
  addStep() {
    const { start } = this.target;
    const order = { member: this.scene.members[0].id, kind: "Light", name: this.lightTo, start };
    return this.edit(
      () => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }),
      `The light becomes another one at ${start.toFixed(1)} s.`,
    );
  },
  goToStep({ start }) {
    this.goTo(start);
  },
  changeStep({ id }, change) {
    return this.edit(() => patch(`/api/clips/${id}`, { revision: this.revision, ...change }));
  },
  setStepLight(step, event) {
    return this.changeStep(step, { name: event.target.value });
  },
  setStepTakes(step, event) {
    return this.changeStep(step, { start: step.start, end: step.start + Math.max(0.1, Number(event.target.value)) });
  },
  setStepAir(step, event) {
    return this.changeStep(step, { air: shareOf(event) });
  },
  setStepLamps(step, event) {
    return this.changeStep(step, { lamps: shareOf(event) });
  },
  dropStep({ id }) {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/clips/delete`, { revision: this.revision, ids: [id] }), "The light stays as it was.");
  },
});
