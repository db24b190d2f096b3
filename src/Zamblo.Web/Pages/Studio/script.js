// The script as a page: lines, their words as they are said, and their text while it is written.
import Alpine from "@alpinejs/csp";
import { patch, post, remove } from "../../front/api.js";
import { drafts } from "./drafts.js";
import { act, onKey, score } from "./shared.js";

// Heights of lines of the script that have been seen, in pixels.
const heights = new Map();

// Words of a line as plain elements: a long script has thousands, and none needs to be watched by itself.
Alpine.directive("words", (element, { expression }, { evaluateLater, effect }) => {
  const read = evaluateLater(expression);
  effect(() =>
    read((list) => {
      const line = element.closest("article").id;
      element.replaceChildren(
        ...list.map((part) => {
          const span = document.createElement("span");
          span.textContent = part.text;
          if (part.word >= 0) {
            span.className = part.unsure ? "said unsure" : "said";
            span.dataset.word = `${line}:${part.key}`;
          }
          return span;
        }),
      );
    }),
  );
});

export const script = () => ({
  // The lines of a long script that are on the page, and the room that the others take.
  shown: { from: 0, to: 20, above: 0, below: 0 },
  lit: "",
  get shownLines() {
    const lines = this.scene?.lines ?? [];
    return lines.length <= 80 ? lines : lines.slice(this.shown.from, this.shown.to);
  },
  scrolled() {
    const lines = score.raw?.lines ?? [];
    const box = this.$refs.script;
    if (lines.length <= 80) {
      if (this.shown.above || this.shown.below) Object.assign(this.shown, { above: 0, below: 0 });
      return;
    }
    for (const element of box.querySelectorAll("article")) heights.set(element.id, element.offsetHeight + 8);
    const heightOf = (l) => heights.get(l.id) ?? 100;
    let y = 0;
    let from = 0;
    while (from < lines.length - 1 && y + heightOf(lines[from]) < box.scrollTop - 800) y += heightOf(lines[from++]);
    let to = from;
    let below = y;
    while (to < lines.length && below < box.scrollTop + box.clientHeight + 800) below += heightOf(lines[to++]);
    const rest = lines.slice(to).reduce((sum, l) => sum + heightOf(l), 0);
    Object.assign(this.shown, { from, to, above: y, below: rest });
  },
  // The word that is heard right now, on the page.
  light(t) {
    if (!score.raw) return;
    let lit = "";
    for (const line of score.raw.lines) {
      if (line.start === null || t < line.start || t >= line.start + line.duration) continue;
      const local = t - line.start;
      const word = line.parts.find((p) => p.word >= 0 && local >= p.start && local < p.end);
      if (word) lit = `${line.id}:${word.key}`;
    }
    if (lit === this.lit) return;
    document.querySelector(".said.lit")?.classList.remove("lit");
    if (lit) document.querySelector(`[data-word="${lit}"]`)?.classList.add("lit");
    this.lit = lit;
  },
  playWord(line, event) {
    this.select(line);
    const key = event.target.dataset.word?.split(":")[1];
    const part = line.parts.find((p) => p.key === key);
    if (!part) return;
    this.goTo(line.start + part.start + 0.0005);
    this.pickWord(line, part.word);
  },
  // A line that is chosen on the score comes into view in the script.
  reveal(line) {
    const box = this.$refs.script;
    const element = document.getElementById(line.id);
    if (element) return element.scrollIntoView({ block: "nearest" });
    const index = score.raw.lines.findIndex((l) => l.id === line.id);
    box.scrollTop = score.raw.lines.slice(0, index).reduce((sum, l) => sum + (heights.get(l.id) ?? 100), 0) - box.clientHeight / 3;
  },
  editing: null,
  draft: "",
  takeDraft(line) {
    return this.write(line, line.written);
  },
  deleteLine(line) {
    return this.edit(() => remove(`/api/lines/${line.id}?revision=${this.revision}`), "Line deleted.");
  },
  deleteSelected() {
    if (this.line) this.deleteLine(this.line);
  },
  get stale() {
    return (this.scene?.lines ?? []).filter((l) => l.isStale).length;
  },
  get staleText() {
    return this.stale === 1 ? "Speak the stale line" : `Speak ${this.stale} stale lines`;
  },
  speakStale() {
    return this.attempt(async () => {
      await post(`/api/scenes/${this.sceneId}/speak-stale`);
    });
  },
  lineUp(line) {
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: -1 }), "Line moved up.");
  },
  lineDown(line) {
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: 1 }), "Line moved down.");
  },
  chooseScene(event) {
    return this.goToScene(event.target.value);
  },
  addScene() {
    return this.attempt(async () => {
      const { id } = await post(`/api/productions/${this.scene.production.id}/scenes`, { revision: this.revision });
      await this.goToScene(id);
      this.say("Scene added.");
    });
  },
  init() {
    onKey(50, (key) => !key.control && act({ Delete: () => this.deleteSelected() }, key.name));
  },
  // A text that was begun and not kept is still there.
  draftOf: (line) => `${line.id}`,
  hasDraft(line) {
    return this.editing !== line.id && this.kept.includes(line.id);
  },
  kept: Object.keys(localStorage)
    .filter((k) => k.startsWith("draft:line:"))
    .map((k) => k.slice("draft:line:".length)),
  startEdit(line) {
    this.editing = line.id;
    this.draft = drafts.read(`line:${line.id}`) || line.written;
    this.$nextTick(() => document.getElementById(`text-${line.id}`)?.focus());
  },
  typed(line) {
    drafts.keep(`line:${line.id}`, this.draft, line.written);
    this.findKept();
  },
  findKept() {
    this.kept = Object.keys(localStorage)
      .filter((k) => k.startsWith("draft:line:"))
      .map((k) => k.slice("draft:line:".length));
  },
  // Escape leaves the field, not the text.
  stopEdit() {
    this.editing = null;
  },
  throwAway(line) {
    drafts.drop(`line:${line.id}`);
    this.editing = null;
    this.findKept();
  },
  async saveText(line) {
    if (this.editing !== line.id) return;
    const text = this.draft.trim();
    this.editing = null;
    if (text !== line.text && !(await this.write(line, text))) {
      // Refused: what was typed is in its field again.
      this.editing = line.id;
      return;
    }
    this.throwAway(line);
  },
  write(line, text) {
    if (text === line.text) return true;
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, text }), "Words changed.");
  },
  anotherTake(line) {
    this.$dispatch("open-booth", { mode: line.take?.kind === "synthesis" ? "type" : (line.take?.kind ?? "type"), line });
  },
  openType() {
    this.$dispatch("open-booth", { mode: "type" });
  },
  openRecord() {
    this.$dispatch("open-booth", { mode: "record" });
  },
  openFile() {
    this.$dispatch("open-booth", { mode: "file" });
  },
  openScript() {
    this.$dispatch("open-booth", { mode: "script" });
  },
  hearAgain(line) {
    return this.attempt(() => post(`/api/lines/${line.id}/hear`));
  },
});
