// The cast: who is in it, under which name, with which voice, and how each moves.
import { patch, post, remove } from "../../front/api.js";
import { variants } from "./voice-names.js";

const dialText = {
  strength: ["Mouth size", 0, 1.5, 0.05],
  dynamics: ["Loud and soft", 0, 1, 0.05],
  density: ["How many shapes", 0, 1, 0.05],
  shortest: ["Shortest shape", 0, 0.2, 0.01, "ms"],
  lead: ["Lead before the sound", 0, 0.08, 0.005, "ms"],
};
const motionText = {
  expressiveness: ["Expressiveness", 0, 2, 0.1],
  turn: ["Turn", 0, 2, 0.1],
  nod: ["Nod", 0, 2, 0.1],
  tilt: ["Tilt", 0, 2, 0.1],
  brows: ["Brows", 0, 2, 0.1],
  blinks: ["Blinks", 0, 2, 0.1],
  gaze: ["Looking about", 0, 2, 0.1],
  camera: ["Looks at the camera", 0, 2, 0.1],
  listening: ["Listening", 0, 2, 0.1],
  body: ["Hands and body", 0, 2, 0.1],
  dangle: ["What dangles", 0, 2, 0.1],
};

export const castPanel = () => ({
  addMember(key) {
    return this.edit(() => post(`/api/productions/${this.scene.production.id}/members`, { revision: this.revision, character: key }), "Cast member added.");
  },
  removeMember() {
    const { id, roleName } = this.member;
    return this.edit(() => remove(`/api/members/${id}?revision=${this.revision}`), `${roleName} has left, with all lines.`);
  },
  renameMember(event) {
    const roleName = event.target.value.trim();
    const { id } = this.member;
    if (!roleName || roleName === this.member.roleName) return;
    return this.edit(() => patch(`/api/members/${id}`, { revision: this.revision, roleName }), null, { field: event.target });
  },
  recast(event) {
    const character = event.target.value;
    return this.changeMember({ character });
  },
  get dials() {
    return this.rows(dialText, this.member?.mouth, `mouth:${this.member?.id}`);
  },
  get motions() {
    return this.rows(motionText, this.member?.performance, `motion:${this.member?.id}`);
  },
  // While a dial is turned the frame on the stage follows; when it is let go the change is made.
  tryDial(event) {
    const { key, held } = event.target.dataset;
    this.hold(held, Number(event.target.value));
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: { [key]: Number(event.target.value) } });
  },
  holdDial(event) {
    this.hold(event.target.dataset.held, Number(event.target.value));
  },
  turnDial(event) {
    const { key, held } = event.target.dataset;
    return this.turn(held, Number(event.target.value), (value) => ({ mouth: { [key]: value } }));
  },
  turn(held, value, change) {
    const { id } = this.member;
    return this.letGo(held, value, () => patch(`/api/members/${id}`, { revision: this.revision, ...change(value) }));
  },
  get shapeDials() {
    const dials = this.member?.mouth.shapeStrengths ?? {};
    return (this.scene?.shapes ?? [])
      .filter((s) => s !== "Rest" && s !== "Closed")
      .map((key) => {
        const held = `shape:${this.member?.id}${key}`;
        const value = this.held[held] ?? dials[key] ?? 1;
        return { key, held, value, text: `${Math.round(value * 100)} %` };
      });
  },
  tryShapeDial(event) {
    const { key, held } = event.target.dataset;
    this.hold(held, Number(event.target.value));
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: { shapeStrengths: { [key]: Number(event.target.value) } } });
  },
  turnShapeDial(event) {
    const { key, held } = event.target.dataset;
    return this.turn(held, Number(event.target.value), (value) => ({ mouth: { shapeStrengths: { [key]: value } } }));
  },
  turnMotion(event) {
    const { key, held } = event.target.dataset;
    return this.turn(held, Number(event.target.value), (value) => ({ performance: { [key]: value } }));
  },
  setSteady(event) {
    return this.changeMember({ performance: { isSteady: event.target.checked } });
  },
  newSeed() {
    const { id } = this.member;
    return this.edit(() => {
      const { seed } = this.scene.members.find((m) => m.id === id).performance;
      return patch(`/api/members/${id}`, { revision: this.revision, performance: { seed: (seed % 9999) + 1 } });
    });
  },
  setHold(event) {
    return this.changeMember({ mouth: { holdFrames: Number(event.target.value) } });
  },
  get otherMembers() {
    return (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember);
  },
  swapWith(event) {
    const second = event.target.value;
    const first = this.selectedMember;
    event.target.value = "";
    if (second) return this.edit(() => post(`/api/scenes/${this.sceneId}/swap`, { revision: this.revision, first, second }), "Their lines are changed over.");
  },
  get voiceVariants() {
    return Object.entries(variants).map(([key, text]) => ({ key, text }));
  },
  get voiceBase() {
    return this.member?.voice.split("+")[0] ?? "";
  },
  get voiceVariant() {
    return this.member?.voice.split("+")[1] ?? "";
  },
  get hasVariants() {
    return this.voiceBase.startsWith("espeak:");
  },
  setVoiceBase(event) {
    const base = event.target.value;
    return this.changeMember({ voice: base.startsWith("espeak:") && this.voiceVariant ? `${base}+${this.voiceVariant}` : base });
  },
  setVoiceVariant(event) {
    return this.changeMember({ voice: event.target.value ? `${this.voiceBase}+${event.target.value}` : this.voiceBase });
  },
  hearVoice() {
    return this.hearVoiceOf(this.member.voice);
  },
  openVoices() {
    this.$dispatch("open-voices");
  },
  openAlternates() {
    this.$dispatch("open-alternates");
  },
});
