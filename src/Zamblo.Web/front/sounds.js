// Music, room tone and effects: what sounds in a scene beside its voices.
import { get, patch, post, remove, upload } from "./api.js";

const soundText = {
  gain: ["Gain", -40, 12, 0.5, "dB"],
  duck: ["Down while somebody speaks", 0, 30, 0.5, "dB"],
  fadeIn: ["Fade in", 0, 10, 0.1, "s"],
  fadeOut: ["Fade out", 0, 10, 0.1, "s"],
};

// tools: the player and the score.
export function sounds(tools) {
  return {
    soundId: null,
    loudness: null,

    get soundList() {
      return this.scene?.sounds ?? [];
    },
    get sound() {
      return this.soundList.find((s) => s.id === this.soundId) ?? null;
    },
    get soundRows() {
      return this.rows(soundText, this.sound);
    },
    pickSound(id) {
      this.soundId = this.soundId === id ? null : id;
    },
    // The server tells music from an effect; only an effect comes in at the playhead.
    bringSound(event) {
      const files = [...event.target.files];
      event.target.value = "";
      return this.attempt(async () => {
        for (const file of files) {
          const { hash, name } = await upload(file, file.name, () => {});
          this.soundId = (await post(`/api/scenes/${this.sceneId}/sounds`, { hash, name, start: tools.player.position })).id;
          await this.reload();
          this.say(`${name} is in.`);
        }
        await this.measure();
      });
    },
    async changeSound(change, say) {
      await this.edit(() => patch(`/api/sounds/${this.sound.id}`, { revision: this.revision, ...change }), say);
      if (this.loudness) await this.measure();
    },
    turnSound(event) {
      return this.changeSound({ [event.target.dataset.key]: Number(event.target.value) });
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
  };
}
