// Music, room tone and effects: what sounds in a scene beside its voices.
import { get, patch, post, remove, upload } from "../../front/api.js";
import { player, stage } from "./shared.js";

const soundText = {
  gain: ["Gain", -40, 12, 0.5, "dB", "Louder or softer."],
  duck: ["Under voices", 0, 30, 0.5, "dB", "So much softer while somebody speaks."],
  fadeIn: ["Fade in", 0, 10, 0.1, "s", "Comes in softly."],
  fadeOut: ["Fade out", 0, 10, 0.1, "s", "Goes out softly."],
};

export const soundsPanel = () => ({
  loudness: null,
  get soundList() {
    return this.scene?.sounds ?? [];
  },
  get sound() {
    return this.soundList.find((s) => s.id === this.soundId) ?? null;
  },
  get soundRows() {
    return this.rows(soundText, this.sound, `sound:${this.soundId}`, "Applies to this sound.");
  },
  pickSound(id) {
    this.soundId = this.soundId === id ? null : id;
  },
  // The server tells music from an effect; only an effect comes in at the playhead.
  async bringSound(event) {
    const files = [...event.target.files];
    event.target.value = "";
    const start = player.position;
    for (const file of files) {
      const sent = await this.attempt(() => upload(file, file.name, () => {}));
      if (!sent) return;
      const order = { hash: sent.hash, name: sent.name, start };
      const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/sounds`, { revision: this.revision, ...order }), `${sent.name} is in.`);
      if (done) this.soundId = done.id;
    }
    await this.measure();
  },
  // A clip that somebody speaks in, or that is the set, has a sound of its own.
  get hasClip() {
    const { scene } = this;
    return scene !== null && (scene.scene.backdrop.startsWith("clip:") || scene.members.some((m) => m.character.startsWith("clip-")));
  },
  async bringClipSound() {
    const hash = stage.painter.shapes?.find((s) => s.filmed)?.picture;
    if (!hash) return this.say("The clip is still on its way.", false);
    const order = { hash, name: "The clip's own sound", kind: "Room", start: 0 };
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/sounds`, { revision: this.revision, ...order }), "The clip's own sound is in.");
    if (done) this.soundId = done.id;
  },
  async changeSound(change, say) {
    const { id } = this.sound;
    await this.edit(() => patch(`/api/sounds/${id}`, { revision: this.revision, ...change }), say);
    if (this.loudness) await this.measure();
  },
  holdSound(event) {
    this.hold(event.target.dataset.held, Number(event.target.value));
  },
  async turnSound(event) {
    const { id } = this.sound;
    const { key, held } = event.target.dataset;
    const value = Number(event.target.value);
    await this.letGo(held, value, () => patch(`/api/sounds/${id}`, { revision: this.revision, [key]: value }));
    if (this.loudness) await this.measure();
  },
  setSoundStart(event) {
    return this.changeSound({ start: Number(event.target.value) });
  },
  setSoundLength(event) {
    return this.changeSound({ length: event.target.value === "" ? -1 : Number(event.target.value) });
  },
  setSoundKind(event) {
    return this.changeSound({ kind: event.target.value });
  },
  setSoundLoops(event) {
    return this.changeSound({ loops: event.target.checked });
  },
  async dropSound() {
    const { id, name } = this.sound;
    await this.edit(() => remove(`/api/sounds/${id}?revision=${this.revision}`), `${name} is out.`);
    if (this.loudness) await this.measure();
  },
  measure() {
    return this.attempt(async () => (this.loudness = await get(`/api/scenes/${this.sceneId}/loudness`)));
  },
  get loudnessText() {
    return this.loudness ? `${this.loudness.lufs.toFixed(1)} LUFS, peak ${this.loudness.truePeak.toFixed(1)} dBTP` : "";
  },
});
