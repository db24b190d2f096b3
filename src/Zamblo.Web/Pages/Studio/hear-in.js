// The words of a line by several voices and deliveries, side by side: choose one, or keep several as takes.
import { get, post } from "../../front/api.js";

const engines = { espeak: "eSpeak NG", flite: "Flite", festival: "Festival", neural: "Neural" };
const shown = 80;

export const hearInPanel = () => ({
  hearLine: null,
  hearText: "",
  hearEngine: "",
  hearLanguage: "",
  hearDelivery: "",
  hearKept: [],
  openHearIn(line) {
    const language = this.voices.find((v) => v.key === this.member?.voice.split("+")[0])?.language ?? "";
    Object.assign(this, { hearLine: line, hearKept: [], hearLanguage: language.split("-")[0] });
    this.$refs.hear.showModal();
  },
  closeHearIn() {
    this.$refs.hear.close();
  },
  get hearEngines() {
    return [...new Set(this.voices.map((v) => v.key.split(":")[0]))].map((key) => ({ key, name: engines[key] ?? key }));
  },
  get hearLanguages() {
    return [...new Set(this.voices.map((v) => v.language.split("-")[0]))].sort();
  },
  // What fits the search; the member's own voice first.
  get hearRows() {
    if (!this.hearLine) return [];
    const sought = this.hearText.trim().toLowerCase();
    const fits = (v) =>
      (!this.hearEngine || v.key.startsWith(`${this.hearEngine}:`)) &&
      (!this.hearLanguage || v.language.split("-")[0] === this.hearLanguage) &&
      (!sought || `${v.name} ${v.language} ${v.character ?? ""}`.toLowerCase().includes(sought));
    const own = this.member?.voice ?? "";
    return this.voices
      .filter(fits)
      .slice(0, shown)
      .map((v) => ({ ...v, isOwn: v.key === own.split("+")[0], isKept: this.hearKept.some((k) => k.voice === v.key && k.delivery === this.hearDelivery) }));
  },
  hearRow(voice) {
    return this.hearVoiceOf(voice.key, this.hearLine.text, this.hearDelivery);
  },
  keepRow(voice) {
    const delivery = this.hearDelivery;
    const without = this.hearKept.filter((k) => k.voice !== voice.key || k.delivery !== delivery);
    this.hearKept = without.length < this.hearKept.length ? without : [...this.hearKept, { voice: voice.key, delivery }];
  },
  get hearKeepText() {
    return this.hearKept.length === 1 ? "Keep it as a take" : `Keep ${this.hearKept.length} as takes`;
  },
  keepHeard() {
    const { id, text } = this.hearLine;
    const kept = [...this.hearKept];
    this.closeHearIn();
    return this.attempt(async () => {
      for (const k of kept) {
        const delivery = this.hearPresets.find((d) => d.name === k.delivery)?.delivery;
        await post(`/api/lines/${id}/takes`, { kind: "synthesis", text, voice: k.voice, delivery, isBeside: true });
      }
      this.say(`${kept.length === 1 ? "A take is" : `${kept.length} takes are`} on the way; T goes through them.`, false);
    });
  },
  hearPresets: [],
  async loadHearPresets() {
    if (this.hearPresets.length) return;
    const found = await this.attempt(() => get("/api/deliveries"));
    this.hearPresets = found ?? [];
  },
});
