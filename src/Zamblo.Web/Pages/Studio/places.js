// Everywhere in the scene a word is said: its mouth is laid there as well, one by one or all at once.
import { get, post } from "../../front/api.js";

export const placesPanel = () => ({
  places: { open: false, text: "", list: [], line: null, word: -1 },
  closePlaces() {
    this.$refs.places.close();
  },
  togglePlace(place) {
    place.chosen = !place.chosen;
  },
  get chosenPlaces() {
    return this.places.list.filter((p) => p.chosen);
  },
  get placesText() {
    const n = this.places.list.length;
    return n === 0 ? `“${this.places.text}” is said nowhere else in this scene.` : `“${this.places.text}” is said ${n} more ${n === 1 ? "time" : "times"}.`;
  },
  applyEverywhere() {
    const { line, word } = this.places;
    const places = this.chosenPlaces.map((p) => ({ line: p.line, word: p.word }));
    this.closePlaces();
    return this.touch(
      () => post(`/api/lines/${line}/words/${word}/apply`, { revision: this.revision, places }),
      `Applied in ${places.length} ${places.length === 1 ? "place" : "places"}.`,
    );
  },
  openPlaces({ line, word }) {
    return this.attempt(async () => {
      const { text, places } = await get(`/api/lines/${line}/words/${word}/elsewhere`);
      Object.assign(this.places, { open: true, text, line, word, list: places.map((p, i) => ({ ...p, key: i, chosen: true })) });
      this.$refs.places.showModal();
    });
  },
});
