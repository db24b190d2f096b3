// The script as a page: as many lines as are in sight, and their words as they are said.
import Alpine from "@alpinejs/csp";
import { score } from "./shared.js";

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
          if (part.isDirection) span.className = "direction";
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

export const scriptPage = () => ({
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
    // With Shift: a phrase, from the word that is picked to this one.
    const from = this.picked.line === line.id ? this.picked.word : -1;
    if (event.shiftKey && from >= 0 && from !== part.word) {
      getSelection().removeAllRanges();
      return this.pickPhrase(line, from, part.word);
    }
    this.goTo(line.start + part.start + 0.0005);
    this.pickWord(line, part.word);
  },
  // Lines that are new since the scene was last seen.
  seen: null,
  showNew() {
    const ids = new Set(score.raw.lines.map((l) => l.id));
    const fresh = this.seen?.scene === score.raw.id ? score.raw.lines.filter((l) => !this.seen.ids.has(l.id)) : [];
    this.seen = { scene: score.raw.id, ids };
    // One line that was added; a whole script stays at its beginning.
    if (fresh.length !== 1) return;
    this.$nextTick(() => this.reveal(fresh[0]));
    if (fresh[0].start !== null) score.view.follow(fresh[0].start);
  },
  stateOf(line) {
    return [
      line.isTogether && "at once with the line before",
      line.isMute && "seen, not heard",
      line.isOffStage && "off stage",
      line.also.length > 0 && this.unisonText(line),
      line.take?.guide && "guided",
    ]
      .filter((x) => x)
      .join(", ");
  },
  unisonText(line) {
    return `with ${line.also.map((id) => this.scene.members.find((m) => m.id === id)?.roleName ?? "").join(" and ")}`;
  },
  // A line that is chosen on the score comes into view in the script.
  reveal(line) {
    const box = this.$refs.script;
    const element = document.getElementById(line.id);
    if (element) return element.scrollIntoView({ block: "nearest" });
    const index = score.raw.lines.findIndex((l) => l.id === line.id);
    box.scrollTop = score.raw.lines.slice(0, index).reduce((sum, l) => sum + (heights.get(l.id) ?? 100), 0) - box.clientHeight / 3;
  },
});
