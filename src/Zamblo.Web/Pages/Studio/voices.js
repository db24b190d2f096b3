// All voices: to hear, to star, to find again.
import { voiceName } from "./voice-names.js";

export const voicesPanel = () => ({
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
});
