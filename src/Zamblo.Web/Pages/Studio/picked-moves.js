// From shape to shape, round a pick, and a copy of it elsewhere.
import { post } from "../../front/api.js";
import { player } from "./shared.js";

export const pickedMoves = () => ({
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
});
