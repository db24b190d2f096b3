// The notes themselves: the tabs of the dividers, and what a dial does, said while it is under the pointer or has the focus.
import { act, onKey } from "./shared.js";

export const notesPanel = () => ({
  says: "",
  init() {
    const say = (e) => (this.says = e.target.closest?.("[data-says]")?.dataset.says ?? "");
    this.$root.addEventListener("pointerover", say);
    this.$root.addEventListener("focusin", say);
    this.$root.addEventListener("pointerleave", () => (this.says = ""));
    onKey(55, ({ name, control, alt }) => !control && !alt && act({ "[": () => this.turnBy(-1), "]": () => this.turnBy(1) }, name));
  },
  // Arrows go through the tabs, as in any list of tabs (WAI-ARIA Authoring Practices, tabs).
  async tabKey(event) {
    const step = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (!step) return;
    event.preventDefault();
    event.stopPropagation();
    await this.turnBy(step);
    document.getElementById(`divider-${this.divider}`).focus();
  },
});
