// The first visit: three hints that point at things, never again after.
const kept = "hints-seen";
const hints = [
  ["[aria-label='Script']", "Lines stand here. A click on a word goes there and picks it; with Shift a phrase."],
  ["#notes-frame", "What is picked turns to its divider: voice, face, acting. The mouths of a word are two clicks away."],
  ["[aria-label='Score']", "Time runs here: words, mouths, moods. Drag what you see; Ctrl+F finds a word, ? shows all keys."],
];

export const hintsPanel = () => ({
  hint: -1,
  init() {
    if (localStorage.getItem(kept)) return;
    window.addEventListener("scene-loaded", () => (this.hint = this.hint < 0 && !localStorage.getItem(kept) ? 0 : this.hint), { once: true });
  },
  get hintText() {
    return hints[this.hint]?.[1] ?? "";
  },
  get hintCount() {
    return `${this.hint + 1} of ${hints.length}`;
  },
  get hintNext() {
    return this.hint < hints.length - 1 ? "Next" : "Begin";
  },
  // Beside what it points at, within the window.
  get hintPlace() {
    const at = document.querySelector(hints[this.hint]?.[0])?.getBoundingClientRect();
    if (!at) return {};
    const width = 280;
    const right = at.right + 12 + width < innerWidth;
    const left = right && at.width < innerWidth / 2 ? at.right + 12 : at.width < innerWidth / 2 ? at.left - width - 12 : innerWidth / 2 - width / 2;
    const top = at.width < innerWidth / 2 ? at.top + 60 : at.top - 120;
    return { left: `${Math.max(8, left)}px`, top: `${Math.max(8, top)}px`, width: `${width}px` };
  },
  nextHint() {
    this.hint += 1;
    if (this.hint >= hints.length) this.endHints();
  },
  endHints() {
    this.hint = -1;
    localStorage.setItem(kept, "yes");
  },
});
