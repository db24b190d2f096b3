// All voices: to hear, to star, to find again.
import { get } from "../../front/api.js";
import { favouriteVoices, withToggled } from "../../front/favourite-voices.js";
import { voiceName } from "./voice-names.js";

export const voicesPanel = () => ({
  voiceSearch: "",
  choosing: false,
  favourites: favouriteVoices(),
  openVoices() {
    this.voiceSearch = "";
    this.choosing = true;
    this.$refs.voices.showModal();
    // Some may have come meanwhile, from the page of voices.
    return this.attempt(async () => (this.voices = await get("/api/voices")));
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
    this.favourites = withToggled(this.favourites, key);
  },
  starVoice() {
    this.toggleFavourite(this.member.voice);
  },
  takeVoice(voice) {
    this.closeVoices();
    return voice.isNow ? null : this.changeMember({ voice: voice.key });
  },
});
