// How words are said in a production: the whole list, to be heard, changed and added to.
import { call, post } from "../../front/api.js";
import { player } from "./shared.js";

export const lexiconPanel = () => ({
  newWord: "",
  newSound: "",
  get lexiconCount() {
    const { length } = this.scene.respellings;
    return length > 0 ? `${length}` : "";
  },
  get canAdd() {
    return Boolean(this.newWord.trim() && this.newSound.trim());
  },
  // In the voice of whoever is picked; else of whoever comes first.
  hearLexeme(word, written) {
    if (!word.trim()) return null;
    const voice = (this.member ?? this.scene.members[0])?.voice ?? "espeak:en-us";
    return this.attempt(async () => {
      const { sound } = await post("/api/hear", { voice, word, written });
      player.playBytes(Uint8Array.from(atob(sound), (c) => c.charCodeAt(0)).buffer);
    });
  },
  saySo(word, written) {
    return this.touch(
      () => call("PUT", `/api/productions/${this.scene.production.id}/respellings`, { revision: this.revision, word, written: written.trim() }),
      written.trim() ? `“${word}” is said so from now on.` : `“${word}” is said as usual again.`,
    );
  },
  async addLexeme() {
    if (!this.canAdd) return;
    await this.saySo(this.newWord.trim(), this.newSound.trim());
    if (this.scene.respellings.some((r) => r.word === this.newWord.trim().toLowerCase())) Object.assign(this, { newWord: "", newSound: "" });
  },
});
