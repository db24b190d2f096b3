// The word of what is picked: how it is written and said, where else it is said; stretches that are a voice, laughter or the like, or none.
import { call, patch, post } from "../../front/api.js";
import { meets } from "../../front/turns.js";
import { player } from "./shared.js";

export const pickedWord = () => ({
  wordDraft: "",
  soundDraft: "",
  heardAs: "",
  respellingOf(word) {
    const plain = word?.toLowerCase().replace(/[^\p{L}\p{N}']/gu, "");
    return this.scene?.respellings.find((r) => r.word === plain) ?? null;
  },
  saveWord() {
    const text = this.wordDraft.trim();
    if (text !== this.pickedWord?.[0]) return this.writeWords(1, text, text ? "Word changed." : "Word taken out.");
  },
  writeWords(count, text, say) {
    const { line, word } = this.picked;
    return this.edit(() => patch(`/api/lines/${line}/words`, { revision: this.revision, word, count, text }), say);
  },
  joinWords() {
    const words = this.pickedLine?.words;
    const { word } = this.picked;
    if (words?.[word + 1]) return this.writeWords(2, words[word][0] + words[word + 1][0], "Words joined.");
  },
  saveSound() {
    if (!this.pickedWord) return;
    const written = this.soundDraft.trim();
    if (written === (this.respellingOf(this.pickedWord[0])?.written ?? "")) return;
    const word = this.pickedWord[0];
    return this.touch(
      () => call("PUT", `/api/productions/${this.scene.production.id}/respellings`, { revision: this.revision, word, written }),
      `“${word}” is listened to anew.`,
    );
  },
  hearSound() {
    if (!this.pickedWord) return;
    const voice = this.scene.members.find((m) => m.id === this.pickedLine?.member)?.voice ?? "espeak:en-us";
    return this.attempt(async () => {
      const { phones, sound } = await post("/api/hear", { voice, word: this.pickedWord[0], written: this.soundDraft });
      this.heardAs = phones;
      player.playBytes(Uint8Array.from(atob(sound), (c) => c.charCodeAt(0)).buffer);
    });
  },
  // Where another turn of the recording meets this one: whose the words up to here, or from here on, may be instead.
  get turnsBeside() {
    const line = this.pickedLine;
    const { word } = this.picked;
    const words = line?.words ?? [];
    const who = (other) => this.scene.members.find((m) => m.id === other.member).roleName;
    const [before, after] = ["start", "end"].map((side) => line && meets(this.scene, line, side));
    return [
      before &&
        words[word + 1] && {
          side: "start",
          at: (words[word][2] + words[word + 1][1]) / 2,
          text: `Up to here: ${who(before)}`,
          title: "The boundary between the two turns moves behind this word",
        },
      after &&
        word > 0 && {
          side: "end",
          at: (words[word - 1][2] + words[word][1]) / 2,
          text: `From here: ${who(after)}`,
          title: "The boundary between the two turns moves before this word",
        },
    ].filter(Boolean);
  },
  giveWords({ side, at }) {
    const line = this.pickedLine;
    this.unpick();
    return this.edit(() => patch(`/api/lines/${line.id}/edge`, { revision: this.revision, edge: side, at: line.start + at }), "The boundary is moved.");
  },
  markRange(isVoice, sound = null) {
    const line = this.pickedLine;
    const { range } = this.picked;
    if (!line?.take || !range) return;
    return this.touch(() => post(`/api/takes/${line.take.id}/marks`, { revision: this.revision, start: range.start, end: range.end, isVoice, sound }));
  },
  // What is heard in the stretch that is picked, if it is one sound.
  get pickedSound() {
    const { range } = this.picked;
    return (range && this.pickedLine?.sounds?.find((s) => s[1] < range.end - 0.03 && s[2] > range.start + 0.03)?.[4]) || "";
  },
  markSound(event) {
    const kind = event.target.value;
    if (kind) return this.markRange(false, kind);
  },
  markVoice() {
    return this.markRange(true);
  },
  markQuiet() {
    return this.markRange(false);
  },
  get canApplyEverywhere() {
    const word = this.pickedWord;
    return word !== null && this.pickedLine.cues.some((c) => c[6] && (c[1] + c[2]) / 2 >= word[1] && (c[1] + c[2]) / 2 < word[2]);
  },
  openPlaces() {
    this.$dispatch("open-places", { ...this.picked });
  },
});
