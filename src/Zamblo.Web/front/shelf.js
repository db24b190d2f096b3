import Alpine from "@alpinejs/csp";
import { applyTheme, get, patch, post, remove, toggleTheme } from "./api.js";

applyTheme();

Alpine.data("shelf", () => ({
  cards: [],
  loaded: false,
  error: "",
  renaming: null,
  title: "",
  toast: null,

  async init() {
    await this.reload();
    this.loaded = true;
    // The demo's voices arrive a moment after the first start.
    this.timer = setInterval(() => this.renaming === null && this.reload(), 4000);
  },
  async reload() {
    try {
      this.cards = await get("/api/productions");
      for (const card of this.cards) {
        card.picture = `/api/productions/${card.id}/picture?r=${card.revision}`;
        card.address = `/production/${card.id}`;
        card.about = `${card.members === 1 ? "1 cast member" : `${card.members} cast members`}, ${card.lines === 1 ? "1 line" : `${card.lines} lines`}`;
      }
      this.error = "";
    } catch (e) {
      this.error = e.message;
    }
  },
  async attempt(work) {
    try {
      this.error = "";
      await work();
    } catch (e) {
      this.error = e.message;
    }
  },
  create() {
    return this.attempt(async () => {
      const { id } = await post("/api/productions");
      location.href = `/production/${id}`;
    });
  },
  startRename(card) {
    this.renaming = card.id;
    this.title = card.title;
    this.$nextTick(() => document.getElementById(`title-${card.id}`)?.select());
  },
  rename(card) {
    if (this.renaming !== card.id) return;
    this.renaming = null;
    const title = this.title.trim();
    if (!title || title === card.title) return;
    return this.attempt(async () => {
      await patch(`/api/productions/${card.id}`, { title });
      await this.reload();
    });
  },
  stopRename() {
    this.renaming = null;
  },
  duplicate(card) {
    return this.attempt(async () => {
      await post(`/api/productions/${card.id}/duplicate`);
      await this.reload();
    });
  },
  bin(card) {
    return this.attempt(async () => {
      await remove(`/api/productions/${card.id}`);
      await this.reload();
      this.toast = { id: card.id, text: `"${card.title}" is off the shelf.` };
    });
  },
  restore() {
    const { id } = this.toast;
    this.toast = null;
    return this.attempt(async () => {
      await post(`/api/productions/${id}/restore`);
      await this.reload();
    });
  },
  closeToast() {
    this.toast = null;
  },
  theme() {
    toggleTheme();
  },
}));

Alpine.start();
