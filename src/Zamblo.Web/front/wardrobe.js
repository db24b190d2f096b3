// The Wardrobe: a character is put together from parts, colours and proportions, and seen speaking while it is.
import Alpine from "@alpinejs/csp";
import { applyTheme, get, post } from "./api.js";
import { StagePainter, unpacked } from "./stage.js";

applyTheme();

const colourNames = {
  skin: "Skin, fur",
  hair: "Hair",
  cloth1: "First cloth",
  cloth2: "Second cloth",
  cloth3: "Third cloth",
  metal: "Metal",
  lip: "Lips",
  iris: "Iris",
};
const ready = {
  skin: ["#F6D2B4", "#EDB993", "#C58560", "#835038", "#653C2B", "#D9813C"],
  hair: ["#2A2223", "#5A3A26", "#8A5A30", "#C9943F", "#B4512B", "#D9D5CC"],
  cloth1: ["#3F7F86", "#C8452D", "#D9A93F", "#4F6F4A", "#4A5A8C", "#E6D9C2"],
  cloth2: ["#4B4A5E", "#2F3A4C", "#6B4A3A", "#7FA6B5", "#8C5A7A", "#F6EEDC"],
  cloth3: ["#C8452D", "#A83F52", "#D9A93F", "#3F7F86", "#4A5A8C", "#2F3A4C"],
  metal: ["#D9A93F", "#9AA3AD", "#B4713C"],
  lip: ["#C4705F", "#A83F52", "#7A3B3B"],
  iris: ["#6B4A2E", "#4F7F86", "#5A7A3A", "#3A4A6B"],
};
const measureNames = {
  height: ["Height", 0.6, 1.3],
  build: ["Build", 0.75, 1.4],
  head: ["Head", 0.85, 1.35],
  body: ["Body", 0.65, 1.15],
  line: ["Ink", 0.6, 1.5],
};
const moods = ["Joy", "Sadness", "Anger", "Fear", "Surprise", "Disgust", "Doubt", "Boredom", "Affection", "Pride", "Mischief"];

// Kept out of the component: frames are not to be watched.
const view = { painter: null, frames: [], begun: 0, wanted: 0, audio: null };

const encoded = (recipe) => {
  const bytes = new TextEncoder().encode(JSON.stringify(recipe));
  return btoa(String.fromCharCode(...bytes))
    .replace(/\+/g, "-")
    .replace(/\//g, "_")
    .replace(/=+$/, "");
};
const lightness = (hex) => {
  const [r, g, b] = [1, 3, 5].map((i) => (parseInt(hex.slice(i, i + 2), 16) / 255) ** 2.2);
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
// Contrast of two colours (WCAG 2.1, 1.4.11, relative luminance with the power 2.2 for its curve).
const contrast = (a, b) => (Math.max(lightness(a), lightness(b)) + 0.05) / (Math.min(lightness(a), lightness(b)) + 0.05);

const page = () => ({
  stock: [],
  kind: "hair",
  recipe: null,
  past: [],
  future: [],
  locks: [],
  mood: "",
  moods,
  is: "person",
  voices: [],
  replaces: null,
  error: "",
  said: "",
  async init() {
    view.painter = new StagePainter(this.$refs.stage);
    try {
      const from = new URLSearchParams(location.search).get("from");
      [this.stock, this.voices] = await Promise.all([get("/api/wardrobe/stock"), get("/api/voices")]);
      this.recipe = from ? await get(`/api/characters/${from}/recipe`) : await get(`/api/wardrobe/random?seed=${1 + Math.floor(Math.random() * 1e6)}`);
      const card = from && (await get("/api/characters")).find((c) => c.key === from);
      if (card) Object.assign(this, { is: card.kind, replaces: card.isOwn ? from : null });
      if (!from) this.recipe.name = "New face";
      await this.look();
    } catch (e) {
      this.error = e.message;
    }
    const tick = () => {
      this.draw();
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  },
  draw() {
    const canvas = this.$refs.stage;
    const list = view.frames;
    if (!list.length || !view.painter.shapes) return;
    view.painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
    // The whole figure across a tall picture.
    view.painter.look([640, 372, (760 * canvas.clientWidth) / canvas.clientHeight]);
    view.painter.drawNew(list[Math.floor(((performance.now() - view.begun) / 1000) * 25) % list.length]);
  },
  // What is looked at last is what is shown, whatever comes back first. Shapes with a first frame come at once, the motion after them.
  async look() {
    const number = ++view.wanted;
    const body = { recipe: this.recipe, mood: this.mood || null };
    try {
      const at = Math.floor(((performance.now() - view.begun) / 1000) * 25) % (view.frames.length || 1);
      const [shapes, first] = await Promise.all([post("/api/wardrobe/shapes", body), post(`/api/wardrobe/frames?from=${at}&count=1`, body)]);
      if (number !== view.wanted) return;
      await view.painter.take(shapes);
      view.frames = unpacked(first);
      this.error = "";
      const all = await post("/api/wardrobe/frames", body);
      if (number !== view.wanted) return;
      view.frames = unpacked(all);
      view.begun ||= performance.now();
    } catch (e) {
      this.error = e.message;
    }
  },
  // Every change is a step that can be taken back.
  change(next) {
    this.past.push(JSON.stringify(this.recipe));
    this.future = [];
    this.recipe = next;
    this.said = "";
    return this.look();
  },
  undo() {
    if (!this.past.length) return;
    this.future.push(JSON.stringify(this.recipe));
    this.recipe = JSON.parse(this.past.pop());
    return this.look();
  },
  redo() {
    if (!this.future.length) return;
    this.past.push(JSON.stringify(this.recipe));
    this.recipe = JSON.parse(this.future.pop());
    return this.look();
  },
  keys(event) {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || event.target.matches("input:not([type=range], [type=color])")) return;
    event.preventDefault();
    if (event.shiftKey) this.redo();
    else this.undo();
  },
  get kindName() {
    return this.stock.find((k) => k.kind === this.kind)?.name ?? "";
  },
  get parts() {
    if (!this.recipe) return [];
    const kind = this.stock.find((k) => k.kind === this.kind);
    const worn = this.recipe.parts[this.kind] ?? kind?.parts[0].key;
    const code = encoded({ ...this.recipe, description: "", voice: "" });
    return (kind?.parts ?? []).map((p) => ({
      ...p,
      id: `${this.kind}/${p.key}`,
      isWorn: p.key === worn,
      picture: `/api/wardrobe/thumb?kind=${this.kind}&part=${p.key}&recipe=${code}`,
    }));
  },
  wear(key) {
    return this.change({ ...this.recipe, parts: { ...this.recipe.parts, [this.kind]: key } });
  },
  get isLocked() {
    return this.locks.includes(this.kind);
  },
  toggleLock() {
    this.locks = this.isLocked ? this.locks.filter((k) => k !== this.kind) : [...this.locks, this.kind];
  },
  async surprise() {
    try {
      const other = await get(`/api/wardrobe/random?seed=${1 + Math.floor(Math.random() * 1e6)}`);
      const { name, description, voice } = this.recipe;
      const parts = { ...other.parts };
      for (const kind of this.locks) parts[kind] = this.recipe.parts[kind] ?? this.stock.find((k) => k.kind === kind).parts[0].key;
      await this.change({ ...other, parts, name, description, voice });
      if (this.is === "person" || this.is === "creature") this.is = (parts.snout ?? "none") === "none" ? "person" : "creature";
    } catch (e) {
      this.error = e.message;
    }
  },
  rename(event) {
    const name = event.target.value.trim();
    if (name) this.change({ ...this.recipe, name });
    else event.target.value = this.recipe.name;
  },
  describe(event) {
    this.change({ ...this.recipe, description: event.target.value.trim() });
  },
  get voiceBase() {
    return this.recipe?.voice.split("+")[0] ?? "";
  },
  giveVoice(event) {
    return this.change({ ...this.recipe, voice: event.target.value });
  },
  hear() {
    view.audio?.pause();
    view.audio = new Audio(
      `/api/voices/sample?key=${encodeURIComponent(this.recipe.voice)}&text=${encodeURIComponent("Fresh rolls at six, and not a minute later.")}`,
    );
    view.audio.onplay = () => (view.begun = performance.now() - 1400);
    view.audio.play().catch(() => (this.error = "The voice could not be heard."));
  },
  async save() {
    try {
      const { key } = await post("/api/characters", { recipe: this.recipe, kind: this.is, replaces: this.replaces });
      this.replaces = key;
      history.replaceState(null, "", `?from=${key}`);
      this.said = `${this.recipe.name} is in Casting.`;
      this.error = "";
    } catch (e) {
      this.error = e.message;
    }
  },
});

const looks = () => ({
  get colours() {
    const palette = this.recipe?.palette ?? {};
    return Object.entries(colourNames).map(([key, name]) => ({ key, name, value: palette[key] ?? "#c4705f", ready: ready[key] }));
  },
  get contrastNote() {
    const p = this.recipe?.palette;
    if (!p) return "";
    if (contrast(p.skin, p.cloth1) < 1.15 && this.recipe.parts.top !== "fur") return "Skin and first cloth are hard to tell apart.";
    if (contrast(p.skin, p.hair) < 1.2 && !["none", undefined].includes(this.recipe.parts.hair)) return "Hair and skin are hard to tell apart.";
    return "";
  },
  // While a colour or a dial is turned the figure follows; a step is made of it when it is let go.
  trying: null,
  hold(next) {
    this.trying ??= JSON.stringify(this.recipe);
    this.recipe = next;
    clearTimeout(this.holdTimer);
    this.holdTimer = setTimeout(() => this.look(), 60);
  },
  letGo(next) {
    clearTimeout(this.holdTimer);
    if (this.trying) this.recipe = JSON.parse(this.trying);
    this.trying = null;
    return this.change(next);
  },
  tryColour(key, event) {
    this.hold({ ...this.recipe, palette: { ...this.recipe.palette, [key]: event.target.value } });
  },
  paint(key, event) {
    return this.letGo({ ...this.recipe, palette: { ...this.recipe.palette, [key]: event.target.value } });
  },
  paintReady(key, colour) {
    return this.change({ ...this.recipe, palette: { ...this.recipe.palette, [key]: colour } });
  },
  get measures() {
    return Object.entries(measureNames).map(([key, [name, min, max]]) => {
      const value = this.recipe?.[key] ?? 1;
      return { key, name, min, max, value, text: `${Math.round(value * 100)} %` };
    });
  },
  tryMeasure(key, event) {
    this.hold({ ...this.recipe, [key]: Number(event.target.value) });
  },
  measure(key, event) {
    return this.letGo({ ...this.recipe, [key]: Number(event.target.value) });
  },
});

Alpine.data("wardrobe", () => Object.defineProperties(page(), Object.getOwnPropertyDescriptors(looks())));
Alpine.start();
