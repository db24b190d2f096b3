// What is done to the sound of a take: trim, level, cleaning, pitch, colour.
import { get, patch } from "../../front/api.js";

const careText = {
  gain: ["Gain", -24, 24, 0.5, "dB", "Louder or softer."],
  speed: ["Tempo", 0.5, 2, 0.05, "x", "Faster or slower at the same pitch; what follows moves along."],
  pitch: ["Shift", -12, 12, 0.5, "st", "Higher or lower in semitones, at the same tempo."],
  resonance: ["Resonance", -8, 8, 0.5, "st", "A smaller or a larger head, without another melody."],
  colourAmount: ["Of the colour", 0, 1, 0.05, "", "How much of the colour; none is the voice as it was."],
  hiss: ["Less noise", 0, 40, 1, "dB", "Takes steady noise down by so much at the most."],
  fadeIn: ["Fade in", 0, 3, 0.1, "s", "Comes in softly."],
  fadeOut: ["Fade out", 0, 3, 0.1, "s", "Goes out softly."],
};

const colours = {
  Plain: "as it is",
  Small: "small creature",
  Giant: "giant",
  Machine: "robot",
  Whisper: "whisper",
  Crowd: "crowd",
  Telephone: "telephone",
  Radio: "small radio",
  Door: "through a door",
  Room: "in a room",
  Hall: "in a hall",
};

export const voiceCare = () => ({
  colours: Object.entries(colours).map(([key, name]) => ({ key, name })),
  get careRows() {
    const { colourAmount, ...plain } = careText;
    const text = this.line?.care?.colour === "Plain" ? plain : { colourAmount, ...plain };
    return this.rows(text, this.line?.care, `care:${this.line?.id}`, "Applies to this take; the original stays.");
  },
  changeCare(change, say) {
    const { id, take } = this.line;
    return this.edit(() => {
      const { care } = this.scene.lines.find((l) => l.id === id);
      return patch(`/api/takes/${take.id}/care`, { revision: this.revision, care: { ...care, ...change } });
    }, say);
  },
  turnCare(event) {
    const { id, take } = this.line;
    const { key, held } = event.target.dataset;
    const value = Number(event.target.value);
    return this.letGo(held ?? `care:${id}${key}`, value, () => {
      const { care } = this.scene.lines.find((l) => l.id === id);
      return patch(`/api/takes/${take.id}/care`, { revision: this.revision, care: { ...care, [key]: value } });
    });
  },
  checkCare(event) {
    return this.changeCare({ [event.target.dataset.key]: event.target.checked });
  },
  setColour(event) {
    return this.changeCare({ colour: event.target.value });
  },
  setLevel(event) {
    return this.changeCare({ level: event.target.value === "" ? null : Number(event.target.value) });
  },
  setHum(event) {
    return this.changeCare({ hum: Number(event.target.value) });
  },
  trimAir() {
    return this.attempt(async () => {
      const trims = await get(`/api/lines/${this.line.id}/dead-air`);
      const { care } = this.line;
      if (Math.abs(trims.trimStart - care.trimStart) < 0.01 && Math.abs(trims.trimEnd - care.trimEnd) < 0.01)
        return this.say("There is no dead air to cut.", false);
      await this.changeCare(trims, "Dead air cut.");
    });
  },
  plainCare() {
    return this.edit(() => patch(`/api/takes/${this.line.take.id}/care`, { revision: this.revision, care: {} }), "The sound is as it came.");
  },
  get isCared() {
    const care = this.line?.care;
    return care ? Object.entries(care).some(([k, v]) => v && !(["speed", "colourAmount"].includes(k) && v === 1) && v !== "Plain") : false;
  },
});
