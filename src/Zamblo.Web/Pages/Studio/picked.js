// What is picked of a mouth: shapes, strength, time, copies; its word and how that is said; everywhere else the word is said.
import { call, patch, post } from "../../front/api.js";
import { act, onKey, player } from "./shared.js";

// Keys of the fourteen shapes, in the order of the picker.
const shapeKeys = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "a", "e", "w", "r", "u"];

export const pickedPanel = () => ({
  wordDraft: "",
  soundDraft: "",
  heardAs: "",
  strengthShown: 1,
  pickLine() {
    const line = this.line;
    if (line?.cues) this.pick({ line: line.id, cues: line.cues.map((c) => c[5]) });
  },
  stepCue(direction) {
    const line = this.pickedLine ?? this.line ?? this.scene.lines.find((l) => l.cues?.length);
    if (!line?.cues?.length) return;
    const local = player.position - line.start;
    const at = this.picked.cues.length
      ? line.cues.findIndex((c) => c[5] === this.picked.cues[0]) + direction
      : direction > 0
        ? line.cues.findIndex((c) => c[1] >= local)
        : line.cues.findLastIndex((c) => c[2] <= local);
    const cue = line.cues[Math.max(0, Math.min(line.cues.length - 1, at))];
    this.pickCue(line, cue);
    this.goTo(line.start + (cue[1] + cue[2]) / 2);
  },
  playPick() {
    const line = this.pickedLine;
    if (!line) return;
    const spans = this.picked.range ? [[0, this.picked.range.start, this.picked.range.end]] : this.pickedWord ? [this.pickedWord] : this.pickedCues;
    if (!spans.length) return;
    const start = Math.min(...spans.map((s) => s[1]));
    const end = Math.max(...spans.map((s) => s[2]));
    this.setLoop({ start: Math.max(0, line.start + start - 0.05), end: line.start + end + 0.05 });
    player.position = this.loop.start;
    player.play();
  },
  get shapeChoices() {
    const character = this.scene?.members.find((m) => m.id === this.pickedLine?.member)?.character;
    const now = this.pickedCues;
    if (!character) return [];
    return this.scene.shapes.map((name, i) => ({
      name,
      key: shapeKeys[i].toUpperCase(),
      picture: `/api/characters/${character}/mouths/${name}`,
      isNow: now.length > 0 && now.every((c) => c[4] === name),
    }));
  },
  get meanStrength() {
    const cues = this.pickedCues.filter((c) => c[4] !== "Rest");
    return cues.length ? cues.reduce((sum, c) => sum + c[3], 0) / cues.length : 1;
  },
  get isTouched() {
    return this.pickedCues.some((c) => c[6]);
  },
  // What is picked is read when the edit's turn has come: the one before may have changed it.
  editCues(operation, extra = {}) {
    return this.touch(() => {
      const { line, cues } = this.picked;
      return line && cues.length ? post(`/api/lines/${line}/cues`, { revision: this.revision, operation, cues: [...cues], ...extra }) : {};
    });
  },
  setShape(name) {
    if (this.picked.cues.length) return this.editCues("Shape", { shape: name });
    return this.putShape(name);
  },
  // A shape, or a shut mouth, where a stretch is picked.
  putShape(shape) {
    const { line, range } = this.picked;
    if (!line || !range) return;
    return this.touch(() => post(`/api/lines/${line}/shape`, { revision: this.revision, shape, start: range.start, end: range.end }));
  },
  shutMouth() {
    if (this.picked.range) return this.putShape("Rest");
    const cues = this.pickedCues;
    if (!cues.length) return;
    const { line } = this.picked;
    return this.touch(() =>
      post(`/api/lines/${line}/shape`, {
        revision: this.revision,
        shape: "Rest",
        start: Math.min(...cues.map((c) => c[1])),
        end: Math.max(...cues.map((c) => c[2])),
      }),
    );
  },
  setStrength(event) {
    const by = Number(event.target.value) / Math.max(0.05, this.meanStrength);
    return this.editCues("Strength", { by });
  },
  strengthen() {
    return this.editCues("Strength", { by: 1.15 });
  },
  weaken() {
    return this.editCues("Strength", { by: 1 / 1.15 });
  },
  nudge(direction) {
    return this.editCues("Move", { by: direction / this.scene.fps });
  },
  takeOut() {
    return this.editCues("Remove");
  },
  resetCues() {
    return this.editCues("Reset");
  },
  get strengthText() {
    return `${Math.round(this.strengthShown * 100)} %`;
  },
  showStrength(event) {
    this.strengthShown = Number(event.target.value);
    this.tryEdit("Strength", { by: this.strengthShown / Math.max(0.05, this.meanStrength) });
  },
  tryShape(name) {
    return this.tryEdit("Shape", { shape: name });
  },
  // Shows on the stage what an edit would do in this frame; nothing is kept.
  tryEdit(operation, extra) {
    const { line, cues } = this.picked;
    if (line && cues.length) return this.tryFrame({ line, operation, cues: [...cues], ...extra });
  },
  copyPick() {
    const cues = this.pickedCues;
    const { line, range } = this.picked;
    if (!cues.length && !range) return;
    const start = range ? range.start : Math.min(...cues.map((c) => c[1]));
    const end = range ? range.end : Math.max(...cues.map((c) => c[2]));
    this.clipboard = { line, start, end };
    this.clipCopy = null;
    this.say(`Copied: ${this.pickText}`, false);
  },
  paste() {
    if (!this.clipboard) return;
    const target = this.pickedLine ?? this.lineAtPlayhead ?? this.line;
    if (!target) return;
    // On a picked word, else at the playhead.
    const word = this.pickedWord;
    const at = word ? word[1] : this.pickedCues.length ? this.pickedCues[0][1] : player.position - target.start;
    const { line: source, start, end } = this.clipboard;
    return this.touch(() => post(`/api/lines/${target.id}/paste`, { revision: this.revision, source, start, end, at: Math.max(0, at) }), "Pasted.");
  },
  get lineAtPlayhead() {
    const t = player.position;
    return this.scene.lines.find((l) => l.start !== null && t >= l.start && t < l.start + l.duration) ?? null;
  },
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
    const voice = this.scene.members.find((m) => m.id === this.pickedLine?.member)?.voice ?? "espeak:en-us";
    return this.attempt(async () => {
      const { phones, sound } = await post("/api/hear", {
        voice: voice.startsWith("espeak:") ? voice : "espeak:en-us",
        word: this.pickedWord[0],
        written: this.soundDraft,
      });
      this.heardAs = phones;
      player.playBytes(Uint8Array.from(atob(sound), (c) => c.charCodeAt(0)).buffer);
    });
  },
  markRange(isVoice) {
    const line = this.pickedLine;
    const { range } = this.picked;
    if (!line?.take || !range) return;
    return this.touch(() => post(`/api/takes/${line.take.id}/marks`, { revision: this.revision, start: range.start, end: range.end, isVoice }));
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
  handKey({ name, control, alt }) {
    const picked = this.picked.cues.length > 0;
    if (control)
      return act({ a: () => this.pickLine(), c: () => (this.hasPick ? this.copyPick() : null), v: () => (this.clipboard ? this.paste() : null) }, name);
    if (name === "," || name === ".") return (this.stepCue(name === "." ? 1 : -1), true);
    if (name === "Escape" && this.hasPick) return (this.unpick(), true);
    if (!picked && !this.picked.range) return false;
    const shape = shapeKeys.indexOf(name);
    if (shape >= 0) return (this.setShape(this.scene.shapes[shape]), true);
    const map = { m: () => this.shutMouth(), Enter: () => this.playPick() };
    if (picked)
      Object.assign(map, {
        Delete: () => this.takeOut(),
        Backspace: () => this.resetCues(),
        ArrowUp: () => this.strengthen(),
        ArrowDown: () => this.weaken(),
        ...(alt ? { ArrowLeft: () => this.nudge(-1), ArrowRight: () => this.nudge(1) } : {}),
      });
    return act(map, name);
  },
  init() {
    window.addEventListener("picked", () => this.readPick());
    onKey(20, (key) => this.handKey(key));
  },
  readPick() {
    const word = this.pickedWord;
    this.wordDraft = word?.[0] ?? "";
    const known = this.respellingOf(this.wordDraft);
    this.soundDraft = known?.written ?? "";
    this.heardAs = known?.phones ?? this.phonesOfWord.map((p) => p[0]).join(" ");
    this.strengthShown = this.meanStrength;
  },
  openPlaces() {
    this.$dispatch("open-places", { ...this.picked });
  },
});
