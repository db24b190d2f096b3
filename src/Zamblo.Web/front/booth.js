// Takes of a line, how it is spoken, and what is done to its sound.
import { get, patch, post, remove } from "./api.js";

const careText = {
  gain: ["Gain", -24, 24, 0.5, "dB"],
  speed: ["Speed", 0.5, 2, 0.05, "x"],
  pitch: ["Pitch", -12, 12, 0.5, "st"],
  resonance: ["Resonance", -8, 8, 0.5, "st"],
  hiss: ["Less noise", 0, 40, 1, "dB"],
  fadeIn: ["Fade in", 0, 3, 0.1, "s"],
  fadeOut: ["Fade out", 0, 3, 0.1, "s"],
};
const deliveryText = {
  speed: ["Speed", 0.5, 2, 0.05],
  pitch: ["Pitch", 0, 1, 0.05],
  range: ["Liveliness", 0, 1, 0.05],
  volume: ["Loudness", 0, 2, 0.05],
  pauses: ["Pauses between words", 0, 0.5, 0.01],
};
const plainDelivery = { speed: 1, pitch: 0.5, range: 0.5, volume: 1, pauses: 0, isWhispered: false };
const variants = {
  "": "as it is",
  ...Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8].map((n) => [`m${n}`, `man ${n}`])),
  ...Object.fromEntries([1, 2, 3, 4, 5].map((n) => [`f${n}`, `woman ${n}`])),
  klatt: "machine 1",
  klatt2: "machine 2",
  klatt3: "machine 3",
  klatt4: "machine 4",
  croak: "croaking",
  whisper: "whispering",
};

export function voiceName(voices, key) {
  const [base, variant] = key.split("+");
  const name = voices.find((v) => v.key === base)?.name ?? base.replace(/^\w+:/, "");
  return variant ? `${name}, ${variants[variant] ?? variant}` : name;
}

// tools: the player.
export function booths(tools) {
  return {
    bare: null,
    deliveries: [],

    get takes() {
      return (this.line?.takes ?? []).map((t, i) => ({
        ...t,
        text: t.kind === "synthesis" ? voiceName(this.voices, t.name) : t.kind === "recording" ? "Recorded" : t.name,
        number: i + 1,
        seconds: `${t.duration.toFixed(1)} s`,
      }));
    },
    useTake(take) {
      if (take.isUsed) return;
      return this.edit(() => post(`/api/lines/${this.line.id}/use`, { revision: this.revision, take: take.id }), `Take ${take.number} is in use.`);
    },
    // One key goes through the takes: compare by listening.
    nextTake() {
      const list = this.takes;
      if (list.length > 1) return this.useTake(list[(list.findIndex((t) => t.isUsed) + 1) % list.length]);
    },
    deleteTake(take) {
      return this.edit(() => remove(`/api/takes/${take.id}?revision=${this.revision}`), `Take ${take.number} deleted.`);
    },

    // ---- how it is spoken

    get isSpoken() {
      return this.line?.take?.kind === "synthesis";
    },
    get deliveryRows() {
      return this.rows(deliveryText, this.line?.delivery);
    },
    async loadDeliveries() {
      if (!this.deliveries.length)
        await this.attempt(async () => (this.deliveries = [{ name: "Plain", delivery: plainDelivery }, ...(await get("/api/deliveries"))]));
    },
    get deliveryName() {
      const now = this.line?.delivery;
      return this.deliveries.find((d) => Object.entries(d.delivery).every(([k, v]) => now?.[k] === v))?.name ?? "";
    },
    turnDelivery(event) {
      return this.deliver({ ...this.line.delivery, [event.target.dataset.key]: Number(event.target.value) });
    },
    presetDelivery(event) {
      const found = this.deliveries.find((d) => d.name === event.target.value);
      if (found)
        return this.deliver(
          found.delivery,
          found.mood ? `${found.name}. ${found.mood} would suit it; speak it again to hear it.` : "Speak it again to hear it.",
        );
    },
    // The line is marked stale until it is spoken again, so that several dials cost one take.
    deliver(delivery, say) {
      return this.edit(() => patch(`/api/lines/${this.line.id}/delivery`, { revision: this.revision, delivery }), say);
    },
    speakAgain() {
      return this.attempt(async () => {
        await post(`/api/lines/${this.line.id}/takes`, { kind: "synthesis", text: this.line.text, delivery: this.line.delivery });
        this.hurry();
      });
    },
    get stale() {
      return (this.scene?.lines ?? []).filter((l) => l.isStale).length;
    },
    get staleText() {
      return this.stale === 1 ? "Speak the stale line" : `Speak ${this.stale} stale lines`;
    },
    speakStale() {
      return this.attempt(async () => {
        await post(`/api/scenes/${this.sceneId}/speak-stale`);
        this.hurry();
      });
    },

    // ---- voices

    voiceSearch: "",
    choosing: false,
    favourites: JSON.parse(localStorage.getItem("favourite-voices") ?? "[]"),

    openVoices() {
      this.voiceSearch = "";
      this.choosing = true;
      this.$refs.voices.showModal();
    },
    closeVoices() {
      this.$refs.voices.close();
    },
    // Favourites first, then what fits the search; a member's voice with its variant is one voice.
    get voiceRows() {
      if (!this.choosing) return [];
      const sought = this.voiceSearch.trim().toLowerCase();
      const starred = this.favourites.map((key) => ({ key, isFavourite: true }));
      const rest = this.voices.filter((v) => !this.favourites.includes(v.key)).map((v) => ({ key: v.key, isFavourite: false }));
      return [...starred, ...rest]
        .map((v) => ({
          ...v,
          name: voiceName(this.voices, v.key),
          language: this.voices.find((x) => x.key === v.key.split("+")[0])?.language ?? "",
          isNow: v.key === this.member?.voice,
        }))
        .filter((v) => !sought || `${v.name} ${v.language} ${v.key}`.toLowerCase().includes(sought))
        .slice(0, 200);
    },
    get isFavourite() {
      return this.favourites.includes(this.member?.voice);
    },
    toggleFavourite(key) {
      this.favourites = this.favourites.includes(key) ? this.favourites.filter((k) => k !== key) : [...this.favourites, key];
      localStorage.setItem("favourite-voices", JSON.stringify(this.favourites));
    },
    starVoice() {
      this.toggleFavourite(this.member.voice);
    },
    takeVoice(voice) {
      this.closeVoices();
      return voice.isNow ? null : this.changeMember({ voice: voice.key });
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
    hearVoiceOf(key) {
      return this.attempt(async () => {
        const response = await fetch(`/api/voices/sample?key=${encodeURIComponent(key)}`);
        if (!response.ok) throw new Error((await response.json().catch(() => null))?.error ?? "The voice could not be heard.");
        await tools.player.playBytes(await response.arrayBuffer());
      });
    },

    // ---- what is done to the sound

    get careRows() {
      return this.rows(careText, this.line?.care);
    },
    changeCare(change, say) {
      const { take, care } = this.line;
      return this.edit(() => patch(`/api/takes/${take.id}/care`, { revision: this.revision, care: { ...care, ...change } }), say);
    },
    turnCare(event) {
      return this.changeCare({ [event.target.dataset.key]: Number(event.target.value) });
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
      return care ? Object.entries(care).some(([k, v]) => v && !(k === "speed" && v === 1) && v !== "Plain") : false;
    },
    // Before and after, with one key: the line without cleaning, colour and level, in the same times.
    toggleBare() {
      if (!this.line) return;
      return this.attempt(async () => {
        this.bare = this.bare ? null : this.line.id;
        this.loadSound();
        await tools.player.fetchPiece(tools.player.pieceAt(tools.player.position));
        this.say(this.bare ? "As it came (B for as it is now)." : "As it is now.", false);
      });
    },
  };
}
