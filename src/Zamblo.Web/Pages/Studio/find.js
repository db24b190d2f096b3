// Find a line or a word in all scenes, and go there.
import { get } from "../../front/api.js";
import { onKey } from "./shared.js";

export const findPanel = () => ({
  isFinding: false,
  findText: "",
  found: [],
  foundAt: 0,
  findTimer: 0,
  init() {
    onKey(10, ({ name, control }) => (control && name === "f" ? (this.openFind(), true) : false));
  },
  openFind() {
    this.isFinding = true;
    // Shown at once, so that no letter is lost.
    this.$refs.search.style.display = "";
    this.$refs.find.focus();
    this.$refs.find.select();
  },
  closeFind() {
    this.isFinding = false;
    document.getElementById("score-grid").focus({ preventScroll: true });
  },
  typedFind() {
    clearTimeout(this.findTimer);
    this.findTimer = setTimeout(() => this.lookFor(), 120);
  },
  async lookFor() {
    const text = this.findText.trim();
    if (!text) return void (this.found = []);
    const found = await this.attempt(() => get(`/api/productions/${this.scene.production.id}/find?text=${encodeURIComponent(text)}`));
    if (found && text === this.findText.trim()) Object.assign(this, { found: found.map((f, i) => ({ ...f, key: `${i}` })), foundAt: 0 });
  },
  get foundText() {
    if (!this.findText.trim()) return "";
    return this.found.length === 0 ? "Nobody says that." : `${this.found.length} ${this.found.length === 1 ? "place" : "places"}`;
  },
  stepFound(by) {
    if (!this.found.length) return;
    this.foundAt = (this.foundAt + by + this.found.length) % this.found.length;
    return this.goToFound(this.found[this.foundAt]);
  },
  // Enter goes to the first, and again to the next.
  async enterFound(by) {
    await this.lookFor();
    if (this.found.length) await this.goToFound(this.found[this.foundAt]);
    this.foundAt = (this.foundAt + by + this.found.length) % Math.max(1, this.found.length);
  },
  async goToFound(place) {
    this.foundAt = this.found.indexOf(place);
    await this.goToScene(place.scene);
    const line = this.scene.lines.find((l) => l.id === place.line);
    if (!line) return;
    this.select(line);
    this.$dispatch("reveal-line", line);
    if (line.start === null) return;
    const word = line.words?.[place.word];
    this.goTo(line.start + (word?.[1] ?? 0) + 0.0005);
    if (word) this.pickWord(line, place.word);
  },
});
