// The score without a pointer, and for a screen reader: a grid of rows for the lines, and for the words, mouths and clips of the line that is picked.
// Left and right go along a row, up and down to the next row; what the cursor is on is picked, as a click would.
import { post } from "../../front/api.js";
import { act, onKey, score } from "./shared.js";

const kinds = ["line", "word", "mouth", "clip"];
const names = { line: "Lines", word: "Words", mouth: "Mouths", clip: "Moods, looks, gestures, walks" };
// A long scene has thousands of lines: so many on each side of the cursor are told.
const near = 12;
const seconds = (t) => `${t.toFixed(2)} s`;

export const scoreKeys = () => ({
  cell: { kind: "line", index: 0 },
  cellText: "",
  // As they came, not as they are watched: a long scene has thousands, and whatever is another comes with another scene.
  get gridLines() {
    const { lines } = (this.scene && score.raw) ?? { lines: [] };
    return lines.filter((l) => l.start !== null).sort((a, b) => a.start - b.start);
  },
  get gridLine() {
    const { id } = this.pickedLine ?? this.line ?? {};
    const all = this.gridLines;
    return all.find((l) => l.id === id) ?? all[0] ?? null;
  },
  cellsOf(kind) {
    const line = this.gridLine;
    if (!line) return [];
    if (kind === "line") {
      const all = this.gridLines;
      const at = Math.max(0, all.indexOf(line));
      return all.slice(Math.max(0, at - near), at + near + 1).map((l) => ({
        id: `cell-${l.id}`,
        item: l,
        text: `Line ${score.raw.lines.indexOf(l) + 1}, ${l.role}: ${l.written || "no words"}, at ${seconds(l.start)}`,
      }));
    }
    if (kind === "word")
      return (line.words ?? []).map((w, i) => ({ id: `cell-w${i}`, item: i, text: `Word ${w[0]}, ${seconds(w[2] - w[1])}${w[3] < 0.5 ? ", unsure" : ""}` }));
    if (kind === "mouth")
      return (line.cues ?? []).map((c, i) => ({ id: `cell-m${i}`, item: c, text: `${c[4]}, ${seconds(c[2] - c[1])}${c[6] ? ", by hand" : ""}` }));
    const end = line.start + line.duration;
    return score.raw.clips
      .filter((c) => c.member === line.member && c.start < end && c.end > line.start)
      .sort((a, b) => a.start - b.start)
      .map((c) => ({ id: `cell-${c.id}`, item: c, text: `${c.title}, ${c.kind}, ${seconds(c.end - c.start)}` }));
  },
  get gridRows() {
    const rows = kinds.map((kind) => ({ kind, name: names[kind], cells: this.cellsOf(kind) })).filter((r) => r.cells.length);
    const now = this.cellId;
    for (const row of rows) for (const cell of row.cells) cell.isNow = cell.id === now;
    return rows.length ? rows : [{ kind: "none", name: names.line, cells: [{ id: "cell-none", text: "No line yet" }] }];
  },
  // Where the cursor is, from what is picked: a pointer may have picked something else meanwhile.
  get place() {
    if (this.clip) return { kind: "clip", index: this.cellsOf("clip").findIndex((c) => c.item.id === this.clipId) };
    if (this.picked.word >= 0 && this.cell.kind !== "mouth") return { kind: "word", index: this.picked.word };
    if (this.picked.cues.length) return { kind: "mouth", index: (this.pickedLine?.cues ?? []).findIndex((c) => c[5] === this.picked.cues[0]) };
    return { kind: "line", index: this.cellsOf("line").findIndex((c) => c.item.id === this.gridLine?.id) };
  },
  get cellId() {
    const { kind, index } = this.place;
    return this.cellsOf(kind)[index]?.id ?? "";
  },
  // Who points at the score has the arrows for frames and strength; who comes by keys goes through its cells.
  isByKeys: false,
  isPointed: false,
  focusByPointer() {
    this.isPointed = true;
    this.$refs.grid.focus({ preventScroll: true });
    this.isByKeys = this.isPointed = false;
  },
  gridFocus() {
    this.isByKeys = !this.isPointed;
    this.cellText = this.cellsOf(this.place.kind)[this.place.index]?.text ?? "";
  },
  gridKey({ name, control, alt, shift, target }) {
    if (target !== this.$refs.grid || !this.isByKeys || control) return false;
    if (alt && shift) return act({ ArrowLeft: () => this.moveEnd(-1), ArrowRight: () => this.moveEnd(1) }, name);
    if (alt) return false;
    const steps = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[name];
    if (!steps || !this.gridLines.length) return false;
    const { kind, index } = this.place;
    if (steps[1]) this.goToCell(kind, index + steps[1]);
    else {
      const rows = this.gridRows.map((r) => r.kind);
      const next = rows[rows.indexOf(kind) + steps[0]];
      if (next) this.goToCell(next, this.nearest(next));
    }
    return true;
  },
  // The cell of a row that is nearest to the playhead.
  nearest(kind) {
    const t = this.time - this.gridLine.start;
    if (kind === "line") return this.cellsOf("line").findIndex((c) => c.item.id === this.gridLine.id);
    const middles = this.cellsOf(kind).map((c) => {
      if (kind === "clip") return (c.item.start + c.item.end) / 2 - this.gridLine.start;
      const w = kind === "word" ? this.gridLine.words[c.item] : c.item;
      return (w[1] + w[2]) / 2;
    });
    return middles.reduce((best, m, i) => (Math.abs(m - t) < Math.abs(middles[best] - t) ? i : best), 0);
  },
  goToCell(kind, index) {
    const cells = this.cellsOf(kind);
    const found = cells[Math.max(0, Math.min(cells.length - 1, index))];
    if (!found) return;
    const line = this.gridLine;
    this.cell.kind = kind;
    this.cellText = found.text;
    if (kind === "line") {
      this.unpick();
      this.select(found.item);
      this.goTo(found.item.start + (found.item.phones?.[0]?.[1] ?? 0) + 0.0005);
      return this.$dispatch("reveal-line", found.item);
    }
    if (kind === "clip") {
      this.unpick();
      this.pickClip(found.item.id);
      return this.goTo(found.item.start + 0.0005, false);
    }
    this.pickClip(null);
    this.selectedLine = line.id;
    const [, start, end] = kind === "word" ? line.words[found.item] : found.item;
    if (kind === "word") this.pickWord(line, found.item);
    else this.pickCue(line, found.item);
    this.goTo(line.start + (kind === "word" ? start + 0.0005 : (start + end) / 2));
  },
  // The end of a picked word or clip, by a frame; of a line, by a word where another turn of its recording follows.
  moveEnd(frames) {
    const by = frames / this.scene.fps;
    if (this.place.kind === "line") return this.moveLineEnd(this.gridLine, frames);
    if (this.clip) return this.change(`/api/clips/${this.clip.id}`, { start: this.clip.start, end: Math.max(this.clip.start + 0.1, this.clip.end + by) });
    const line = this.pickedLine;
    const { word } = this.picked;
    if (!line || word < 0) return null;
    const time = line.words[word][2] + by;
    return this.touch(
      () => post(`/api/lines/${line.id}/pins`, { revision: this.revision, word, phone: 999, time }),
      "Boundary set; its neighbours are aligned again.",
    );
  },
  listenToSearch() {
    onKey(5, (key) => this.gridKey(key));
  },
  openFind() {
    this.$dispatch("open-find");
  },
});
