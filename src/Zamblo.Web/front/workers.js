// The page of workers: who helps to draw, to listen and to speak, and what each has done.
import Alpine from "@alpinejs/csp";
import { applyTheme, get } from "./api.js";

applyTheme();
const every = 2000;
const lengthOf = (seconds) => (seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`);

Alpine.data("workersPage", () => ({
  workers: null,
  error: "",
  copied: false,
  async init() {
    for (;;) {
      if (!document.hidden) await this.load();
      await new Promise((done) => setTimeout(done, every));
    }
  },
  async load() {
    try {
      this.workers = await get("/api/workers");
      this.error = "";
    } catch (e) {
      this.error = e.message;
    }
  },
  get isEmpty() {
    return this.workers?.length === 0;
  },
  get rows() {
    return (this.workers ?? []).map((w) => ({
      ...w,
      key: `${w.name} ${w.since}`,
      now: w.isHere ? w.doing.join(", ") || "waits" : `silent since ${new Date(w.seen).toLocaleTimeString()}`,
      heard: [w.sounds > 0 && `${w.sounds} heard (${lengthOf(w.soundSeconds)})`, w.texts > 0 && `${w.texts} spoken`].filter(Boolean).join(", "),
      rate: w.framesPerSecond > 0 ? w.framesPerSecond.toFixed(1) : "",
    }));
  },
  async copy(event) {
    await navigator.clipboard.writeText(event.currentTarget.dataset.command);
    this.copied = true;
    setTimeout(() => (this.copied = false), every);
  },
}));
Alpine.start();
