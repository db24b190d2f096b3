// Words of the script under a pointer: a click goes there, Shift or a drag picks a phrase; what is picked is marked.
export const scriptWords = () => ({
  // A drag over words picks them as a phrase.
  holdWord(line, event) {
    const key = event.target.dataset.word?.split(":")[1];
    const part = line.parts.find((p) => p.key === key);
    this.heldWord = part && event.button === 0 ? { line, word: part.word } : null;
  },
  dropWord(line, event) {
    const held = this.heldWord;
    this.heldWord = null;
    const key = event.target.dataset.word?.split(":")[1];
    const part = line.parts.find((p) => p.key === key);
    if (!held || !part || held.line !== line || part.word === held.word) return;
    getSelection().removeAllRanges();
    // The click that follows a drag is not one.
    this.dragged = performance.now();
    this.select(line);
    this.pickPhrase(line, held.word, part.word);
  },
  dropOnWord(line, event) {
    const key = event.target.dataset.word?.split(":")[1];
    return this.layOnLine(event, line, line.parts.find((p) => p.key === key)?.word ?? -1);
  },
  clickWord(line, event) {
    if (performance.now() - (this.dragged ?? -1000) < 80) return;
    return this.playWord(line, event);
  },
  // The words that are picked anywhere are marked on the page.
  markPicked() {
    const { line, word, range } = this.picked;
    for (const span of document.querySelectorAll(".said.is-picked")) span.classList.remove("is-picked");
    const said = this.pickedLine?.parts.filter((p) => p.word >= 0) ?? [];
    for (const p of said)
      if (p.word === word || (range && p.start >= range.start - 0.02 && p.end <= range.end + 0.02))
        document.querySelector(`[data-word="${line}:${p.key}"]`)?.classList.add("is-picked");
  },
});
