// Casting as a grid of cards: filtered, searched, starred; a card under the pointer comes alive, and says a word in its voice on a click.
import { get } from "./api.js";
import { StagePainter, unpacked } from "./stage.js";

const kept = "favourite-characters";
const moves = ["wave", "tilt", "double-blink", "perk-up", "nod"];
// Outside of the component: frames are not to be watched.
const live = { canvas: null, painter: null, key: "", timer: 0, frames: new Map(), audio: null };

async function framesOf(key) {
  if (!live.frames.has(key)) {
    const move = moves[[...key].reduce((n, c) => n + c.charCodeAt(0), 0) % moves.length];
    const [data, view] = await Promise.all([get(`/api/characters/${key}/gestures/${move}`), get(`/api/characters/${key}/view`)]);
    live.frames.set(key, Object.assign(unpacked(data), { view }));
  }
  return live.frames.get(key);
}

export const castingGrid = () => ({
  characters: [],
  kind: "",
  sought: "",
  starred: JSON.parse(localStorage.getItem(kept) ?? "[]"),
  castError: "",
  async loadCharacters() {
    try {
      this.characters = await get("/api/characters");
    } catch (e) {
      this.castError = e.message;
    }
  },
  get kinds() {
    return [
      { key: "", name: "All" },
      { key: "person", name: "People" },
      { key: "creature", name: "Creatures" },
      { key: "thing", name: "Things" },
      { key: "machine", name: "Machines" },
      { key: "starred", name: "Favourites" },
      { key: "own", name: "My own" },
    ];
  },
  // One's own first, then favourites, then the rest.
  get cards() {
    const text = this.sought.trim().toLowerCase();
    const rank = (c) => (c.isOwn ? 0 : c.isStarred ? 1 : 2);
    return this.characters
      .map((c) => ({ ...c, isStarred: this.starred.includes(c.key), picture: `/api/characters/${c.key}/picture` }))
      .filter((c) => !this.kind || c.kind === this.kind || (this.kind === "starred" && c.isStarred) || (this.kind === "own" && c.isOwn))
      .filter((c) => !text || `${c.name} ${c.description} ${c.kind}`.toLowerCase().includes(text))
      .sort((a, b) => rank(a) - rank(b));
  },
  star(card) {
    this.starred = card.isStarred ? this.starred.filter((k) => k !== card.key) : [...this.starred, card.key];
    localStorage.setItem(kept, JSON.stringify(this.starred));
  },
  async enliven(card, box) {
    if (live.key === card.key || matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    live.key = card.key;
    live.canvas ??= Object.assign(document.createElement("canvas"), { className: "absolute inset-0 h-full w-full rounded-sm", ariaHidden: "true" });
    live.painter ??= new StagePainter(live.canvas);
    try {
      const list = await framesOf(card.key);
      if (live.key !== card.key) return;
      await live.painter.load(`/api/characters/${card.key}/preview-shapes`);
      if (live.key !== card.key) return;
      live.painter.look(list.view);
      const begun = performance.now();
      const tick = () => {
        if (live.key !== card.key) return;
        live.painter.resize(Math.round(box.clientWidth * devicePixelRatio), Math.round(box.clientHeight * devicePixelRatio));
        live.painter.drawNew(list[Math.floor(((performance.now() - begun) / 1000) * 25) % list.length]);
        if (live.canvas.parentElement !== box) box.append(live.canvas);
        live.timer = requestAnimationFrame(tick);
      };
      tick();
    } catch (e) {
      this.castError = e.message;
    }
  },
  still() {
    live.key = "";
    cancelAnimationFrame(live.timer);
    live.canvas?.remove();
  },
  async sayHello(card) {
    live.audio?.pause();
    const words = `I am ${card.name}.`;
    live.audio = new Audio(`/api/voices/sample?key=${encodeURIComponent(card.voice)}&text=${encodeURIComponent(words)}`);
    await live.audio.play().catch(() => (this.castError = "The voice could not be heard."));
  },
});
