// The head of the page: title, undo, the film.
import { patch } from "../../front/api.js";
import { toggleTheme } from "../../front/api.js";

export const top = () => ({
  retitle(event) {
    const title = event.target.value.trim();
    if (!title || title === this.scene.production.title) return;
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, title }), null, { field: event.target });
  },
  get undoText() {
    return this.scene?.undo ? `Undo: ${this.scene.undo} (Ctrl+Z)` : "Nothing to undo";
  },
  get redoText() {
    return this.scene?.redo ? `Redo: ${this.scene.redo} (Ctrl+Shift+Z)` : "Nothing to redo";
  },
  // Whoever has this production open besides oneself, and where.
  get others() {
    const titles = Object.fromEntries((this.scene?.scenes ?? []).map((s) => [s.id, s.title]));
    return this.people
      .filter((p) => p.name !== this.me)
      .map((p) => ({
        key: `${p.name} ${p.scene}`,
        initial: [...p.name][0].toUpperCase(),
        title: p.scene === this.sceneId ? `${p.name} is here` : `${p.name} is at ${titles[p.scene] ?? "another scene"}`,
      }));
  },
  theme() {
    toggleTheme();
  },
  openHelp() {
    this.$dispatch("open-help");
  },
  addVoice() {
    this.$dispatch("open-booth", { mode: "type" });
  },
});
