// The voice of the selected line: who says it, its takes, and how it is spoken.
import { get, patch, post } from "../../front/api.js";
import { lineLanguage } from "./line-language.js";
import { mix } from "./mix.js";
import { act, onKey, player } from "./shared.js";
import { voiceCare } from "./voice-care.js";
import { voiceTakes } from "./voice-takes.js";

const deliveryText = {
  speed: ["Speed", 0.5, 2, 0.05, "", "How fast it is spoken; 1 is the voice's own."],
  pitch: ["Pitch", 0, 1, 0.05, "", "How high it is spoken."],
  range: ["Liveliness", 0, 1, 0.05, "", "How far the melody goes up and down."],
  volume: ["Loudness", 0, 2, 0.05, "", "How loud it is spoken."],
  pauses: ["Between words", 0, 0.5, 0.01, "s", "Silence between each two words."],
};
const plainDelivery = { speed: 1, pitch: 0.5, range: 0.5, volume: 1, pauses: 0, isWhispered: false };

const delivery = () => ({
  deliveries: [],
  get isSpoken() {
    return this.line?.take?.kind === "synthesis";
  },
  get deliveryRows() {
    return this.rows(deliveryText, this.line?.delivery, `delivery:${this.line?.id}`, "Applies to this line when it is spoken again.");
  },
  async loadDeliveries() {
    if (!this.deliveries.length)
      await this.attempt(async () => (this.deliveries = [{ name: "Plain", delivery: plainDelivery }, ...(await get("/api/deliveries"))]));
  },
  get deliveryName() {
    const now = this.line?.delivery;
    return this.deliveries.find((d) => Object.entries(d.delivery).every(([k, v]) => now?.[k] === v))?.name ?? "";
  },
  holdDial(event) {
    this.hold(event.target.dataset.held, Number(event.target.value));
  },
  turnDelivery(event) {
    const { id } = this.line;
    const { key, held } = event.target.dataset;
    const value = Number(event.target.value);
    return this.letGo(held, value, () => {
      const line = this.scene.lines.find((l) => l.id === id);
      return patch(`/api/lines/${id}/delivery`, { revision: this.revision, delivery: { ...line.delivery, [key]: value } });
    });
  },
  presetDelivery(event) {
    const found = this.deliveries.find((d) => d.name === event.target.value);
    if (found)
      return this.deliver(found.delivery, found.mood ? `${found.name}. ${found.mood} would suit it; speak it again to hear it.` : "Speak it again to hear it.");
  },
  // The line is marked stale until it is spoken again, so that several dials cost one take.
  deliver(delivery, say) {
    const { id } = this.line;
    return this.edit(() => patch(`/api/lines/${id}/delivery`, { revision: this.revision, delivery }), say);
  },
  speakAgain() {
    return this.attempt(async () => {
      await post(`/api/lines/${this.line.id}/takes`, { kind: "synthesis", text: this.line.text, delivery: this.line.delivery });
    });
  },
  giveLine(event) {
    const member = event.target.value;
    const { id } = this.line;
    if (member !== this.line.member) return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, member }));
  },
  // S with a line selected and nothing picked cuts the line at the playhead.
  splitLine() {
    const { id } = this.line;
    const at = player.position;
    return this.edit(() => post(`/api/lines/${id}/split`, { revision: this.revision, at }), "Line split at the playhead.");
  },
  joinLine() {
    const { id } = this.line;
    return this.edit(() => post(`/api/lines/${id}/join`, { revision: this.revision }), "Joined with the next line.");
  },
  setOffStage(event) {
    const offStage = event.target.checked;
    const { id } = this.line;
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, offStage }));
  },
  setMute(event) {
    const mute = event.target.checked;
    const { id } = this.line;
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, mute }));
  },
  get chorus() {
    return (this.scene?.members ?? [])
      .filter((m) => m.id !== this.line?.member)
      .map((m) => ({ id: m.id, name: m.roleName, isIn: this.line.also.includes(m.id) }));
  },
  joinChorus(member) {
    const { id, also } = this.line;
    const voices = member.isIn ? also.filter((other) => other !== member.id) : [...also, member.id];
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, also: voices }));
  },
  init() {
    onKey(40, ({ name, control, alt }) => {
      if (control || !this.line) return false;
      if (alt) return !this.hasPick && act({ ArrowLeft: () => this.nudgeLine(-1), ArrowRight: () => this.nudgeLine(1) }, name);
      return act({ t: () => this.nextTake(), s: () => (this.line.start !== null ? this.splitLine() : null) }, name);
    });
  },
  nudgeLine(frames) {
    const { id, start } = this.line;
    if (start === null) return null;
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, by: frames / this.scene.fps }), "Line moved; what follows goes along.");
  },
});

export const voicePanel = () => mix(delivery(), voiceTakes(), voiceCare(), lineLanguage());
