// What is picked: lines, mouths, words and stretches of them. What is selected somewhere is selected everywhere.
import { mix } from "./mix.js";
import { pickingClips } from "./picking-clips.js";
import { score } from "./shared.js";

const pickingLines = () => ({
  select(line) {
    if (this.picked.line !== line.id) this.unpick();
    this.pickClip(null);
    this.selectedLine = line.id;
    this.selectedMember = line.member;
    this.turnFor("line");
  },
  selectMember(member) {
    this.propId = null;
    this.selectedMember = member.id;
  },
  // A prop; the same again, or none, lets it be.
  pickProp(id) {
    this.propId = this.propId === id ? null : id;
    if (this.propId) this.turnFor("prop");
  },
  get prop() {
    return this.scene?.props.find((p) => p.id === this.propId) ?? null;
  },
  // In a hand it is not where it stands: there is nothing to take hold of.
  get isInHand() {
    const { prop, time } = this;
    return prop !== null && this.scene.clips.some((c) => c.prop === prop.id && time >= c.start && time <= c.end);
  },
  get member() {
    return this.scene?.members.find((m) => m.id === this.selectedMember) ?? null;
  },
  get line() {
    return this.scene?.lines.find((l) => l.id === this.selectedLine) ?? null;
  },
  // A word or a stretch may be acted on as well; a single mouth is the face's.
  get pickIsMouth() {
    return this.picked.word < 0 && this.picked.range === null;
  },
  pick(change) {
    Object.assign(this.picked, { line: null, cues: [], range: null, word: -1 }, change);
    this.syncPick();
    window.dispatchEvent(new Event("picked"));
    if (this.hasPick) this.turnFor(this.pickIsMouth ? "cue" : "word");
  },
  syncPick() {
    const { line, cues, range, word } = this.picked;
    if (score.view) score.view.selection = { line, cues: new Set(cues), range: range && { ...range }, word };
  },
  unpick() {
    this.pick({});
  },
  // After an edit: the same cues again, found by their touch-ups or their numbers.
  repick(touched) {
    const line = this.pickedLine;
    if (!line) return this.unpick();
    // While it is being listened to again nothing is known of it: the pick waits.
    if (!line.cues) return;
    const cues = touched?.length
      ? line.cues.filter((c) => touched.includes(c[6])).map((c) => c[5])
      : this.picked.cues.filter((n) => line.cues.some((c) => c[5] === n));
    this.pick({ ...this.picked, cues, range: null });
  },
  get pickedLine() {
    return this.scene?.lines.find((l) => l.id === this.picked.line) ?? null;
  },
  get pickedCues() {
    return this.pickedLine?.cues?.filter((c) => this.picked.cues.includes(c[5])) ?? [];
  },
  get pickedWord() {
    return this.picked.word >= 0 ? (this.pickedLine?.words?.[this.picked.word] ?? null) : null;
  },
  get phonesOfWord() {
    const word = this.pickedWord;
    if (!word) return [];
    return this.pickedLine.phones.filter((p) => (p[1] + p[2]) / 2 >= word[1] && (p[1] + p[2]) / 2 < word[2]);
  },
  get hasPick() {
    return this.picked.cues.length > 0 || this.picked.word >= 0 || this.picked.range !== null;
  },
  get rangeText() {
    const { range } = this.picked;
    return `${this.saidIn(this.pickedLine, range)} ${(range.end - range.start).toFixed(2)} s`.trim();
  },
  get pickText() {
    const cues = this.pickedCues;
    const where = this.pickedWord ? `“${this.pickedWord[0]}”` : this.picked.range ? this.rangeText : "";
    if (cues.length === 1) return `${where} ${cues[0][4]}`.trim();
    return cues.length > 1 ? `${where} ${cues.length} cues`.trim() : where;
  },
  cuesIn(line, start, end) {
    return (line.cues ?? []).filter((c) => (c[1] + c[2]) / 2 >= start && (c[1] + c[2]) / 2 < end).map((c) => c[5]);
  },
  pickWord(line, word) {
    const w = line.words?.[word];
    if (w) this.pick({ line: line.id, word, cues: this.cuesIn(line, w[1], w[2]) });
  },
  // From one word to another, in either order.
  pickPhrase(line, from, to) {
    const [first, last] = [Math.min(from, to), Math.max(from, to)];
    const range = { start: line.words[first][1], end: line.words[last][2] };
    this.pick({ line: line.id, range, cues: this.cuesIn(line, range.start, range.end) });
    this.goTo(line.start + range.start + 0.0005, false);
  },
  // Laughter or the like: [name, start, end].
  pickHeard(line, [, start, end]) {
    this.pick({ line: line.id, range: { start, end }, cues: this.cuesIn(line, start, end) });
  },
  // What is said in a stretch, as it is written.
  saidIn(line, range) {
    const inside = line.parts.filter((p) => p.word >= 0 && p.start >= range.start - 0.02 && p.end <= range.end + 0.02).map((p) => p.text);
    return inside.length ? `“${inside.length > 4 ? `${inside.slice(0, 2).join(" ")} … ${inside.at(-1)}` : inside.join(" ")}”` : "";
  },
  pickCue(line, cue, add, extend) {
    const same = this.picked.line === line.id;
    let cues = [cue[5]];
    if (add && same) cues = this.picked.cues.includes(cue[5]) ? this.picked.cues.filter((n) => n !== cue[5]) : [...this.picked.cues, cue[5]];
    if (extend && same && this.picked.cues.length) {
      const first = Math.min(cue[5], ...this.picked.cues);
      const last = Math.max(cue[5], ...this.picked.cues);
      cues = line.cues.map((c) => c[5]).filter((n) => n >= first && n <= last);
    }
    const middle = (cue[1] + cue[2]) / 2;
    const word = cues.length === 1 ? (line.words ?? []).findIndex((w) => middle >= w[1] && middle < w[2]) : -1;
    this.pick({ line: line.id, cues, word });
  },
  picked: { line: null, cues: [], range: null, word: -1 },
  // A sound beside the voices.
  soundId: null,
  propId: null,
  selectedLine: null,
  selectedMember: null,
});

export const picking = () => mix(pickingLines(), pickingClips());
