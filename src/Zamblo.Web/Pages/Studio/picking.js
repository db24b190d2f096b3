// What is picked: lines, mouths, words and stretches of them, clips. What is selected somewhere is selected everywhere.
import { post } from "../../front/api.js";
import { player, score } from "./shared.js";

export const picking = () => ({
  select(line) {
    if (this.picked.line !== line.id) this.unpick();
    this.pickClip(null);
    this.selectedLine = line.id;
    this.selectedMember = line.member;
    this.turnFor("line");
  },
  selectMember(member) {
    this.selectedMember = member.id;
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
  get pickText() {
    const cues = this.pickedCues;
    const where = this.pickedWord ? `“${this.pickedWord[0]}”` : this.picked.range ? `${(this.picked.range.end - this.picked.range.start).toFixed(2)} s` : "";
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
  get clip() {
    return this.scene?.clips.find((c) => c.id === this.clipId) ?? null;
  },
  // With Ctrl held a clip joins those that are picked already.
  pickClip(id, more = false) {
    const ids = !id ? [] : !more ? [id] : this.clipIds.includes(id) ? this.clipIds.filter((i) => i !== id) : [...this.clipIds, id];
    this.clipIds = ids;
    this.clipId = ids.at(-1) ?? null;
    if (this.clipId) this.turnFor("clip");
    if (!score.view) return;
    score.view.clip = this.clipId;
    score.view.clips = new Set(ids);
  },
  // Where something new goes: what is picked, else the selected line, else two seconds from the playhead.
  get target() {
    const line = this.pickedLine;
    if (line && this.picked.range) return { member: line.member, start: line.start + this.picked.range.start, end: line.start + this.picked.range.end };
    if (line && this.pickedWord) return { member: line.member, start: line.start + this.pickedWord[1], end: line.start + this.pickedWord[2], isWord: true };
    const whole = this.line;
    if (whole && whole.start !== null && whole.member === this.selectedMember) {
      const spoken = whole.phones?.length ? [whole.phones[0][1], whole.phones.at(-1)[2]] : [0, whole.duration];
      return { member: whole.member, start: whole.start + spoken[0], end: whole.start + spoken[1], isLine: true };
    }
    const t = player.position;
    return { member: this.selectedMember, start: t, end: t + 2, isHere: true };
  },
  async layClip(order, say) {
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }), say);
    if (!done) return;
    this.unpick();
    this.pickClip(done.id);
  },
  get lookChoices() {
    const others = (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember).map((m) => ({ key: m.id, name: m.roleName }));
    return [
      { key: "camera", name: "The camera" },
      ...others,
      { key: "left", name: "To the left" },
      { key: "right", name: "To the right" },
      { key: "up", name: "Up" },
      { key: "down", name: "Down" },
    ];
  },
  picked: { line: null, cues: [], range: null, word: -1 },
  clipId: null,
  // A sound beside the voices.
  soundId: null,
  clipIds: [],
  selectedLine: null,
  selectedMember: null,
  // Copies: of a mouth, for this scene; of a clip, kept by the browser for other scenes and productions as well. The newest is what Ctrl+V lays.
  clipboard: null,
  clipCopy: JSON.parse(localStorage.getItem("clip") ?? "null"),
});
