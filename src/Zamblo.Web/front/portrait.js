// A picture becomes one or several speaking characters: brought, marked, seen moving, kept or filmed.
import Alpine from "@alpinejs/csp";
import { applyTheme, get, post } from "./api.js";
import { clipping, isClip } from "./portrait-clip.js";
import { mapping } from "./portrait-map.js";
import { marking } from "./portrait-marks.js";
import { retouching } from "./portrait-retouch.js";
import { stripping } from "./portrait-strip.js";
import { StagePainter, unpacked } from "./stage.js";

applyTheme();

const moods = ["Joy", "Sadness", "Anger", "Fear", "Surprise", "Disgust", "Doubt", "Boredom", "Affection", "Pride", "Mischief"];
// Silence before the sentence, in seconds: first it looks about.
const before = 3.2;

// Kept out of the component: frames are not to be watched.
const view = { painter: null, frames: [], begun: 0, wanted: 0, audio: null };

const page = () => ({
  picture: null,
  faces: [],
  shown: 0,
  isFree: true,
  isLooking: false,
  isReady: false,
  isNear: true,
  mood: "",
  moods,
  kinds: ["person", "creature", "thing", "machine"],
  teethKinds: [
    { key: "Even", name: "even" },
    { key: "Gap", name: "with a gap" },
    { key: "Fangs", name: "fangs" },
    { key: "None", name: "none" },
  ],
  eyeKinds: [
    { key: "Own", name: "its own" },
    { key: "Human", name: "drawn" },
    { key: "Animal", name: "an animal's" },
    { key: "Cartoon", name: "a cartoon's" },
  ],
  voices: [],
  past: [],
  future: [],
  error: "",
  doing: "",
  async init() {
    view.painter = new StagePainter(this.$refs.stage);
    try {
      this.voices = await get("/api/voices");
    } catch (e) {
      this.error = e.message;
    }
    new ResizeObserver(() => this.drawMarks()).observe(this.$refs.marks);
    const tick = () => {
      this.draw();
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  },
  get face() {
    return this.faces[this.shown] ?? null;
  },
  get mayGoOn() {
    return this.isReady || this.isClipReady;
  },
  get chips() {
    return this.faces.map((f, index) => ({ index, name: f.name, isShown: index === this.shown }));
  },
  chooseFile(event) {
    const [file] = event.target.files;
    event.target.value = "";
    return file && this.bring(file);
  },
  dropFile(event) {
    const [file] = event.dataTransfer.files;
    return file && this.bring(file);
  },
  async bring(file) {
    if (isClip(file)) return this.bringClip(file);
    this.stopClip();
    this.error = "";
    this.doing = "Looking for faces…";
    this.isLooking = true;
    try {
      const taken = await post(`/api/portraits/pictures?name=${encodeURIComponent(file.name)}`, file);
      const name = file.name.replace(/\.[^.]*$/, "").slice(0, 34);
      Object.assign(this, { picture: taken, faces: [], shown: 0, past: [], future: [], isReady: false, strokes: [], tool: "" });
      view.frames = [];
      for (const [i, found] of taken.faces.entries()) this.addFace(found, "person", taken.faces.length > 1 ? `${name} ${i + 1}` : name);
      this.shown = 0;
      this.isNear = this.faces.length < 2;
      this.frame(this.faces.length !== 1);
      this.doing = "";
      if (this.faces.length) await this.look();
    } catch (e) {
      this.error = e.message;
    }
    this.doing = "";
    this.isLooking = false;
  },
  addFace(found, kind, name) {
    const voices = this.voices.map((v) => v.key);
    const taken = this.faces.map((f) => f.voice);
    const voice = ["espeak:en-us", "espeak:en-gb", "espeak:en-gb-scotland"].find((v) => voices.includes(v) && !taken.includes(v)) ?? "espeak:en-us";
    this.faces = [
      ...this.faces,
      { ...found, name: name ?? `Face ${this.faces.length + 1}`, kind, voice, teeth: kind === "thing" ? "None" : "Even", eyes: "Own", parts: [] },
    ];
    this.shown = this.faces.length - 1;
  },
  show(index) {
    this.shown = index;
    this.picked = "";
    this.frame(false);
    return this.look();
  },
  leaveOut(index) {
    this.remember();
    this.faces = this.faces.filter((f, i) => i !== index);
    this.shown = Math.max(0, Math.min(this.shown, this.faces.length - 1));
    this.frame(this.faces.length !== 1);
    if (this.faces.length) return this.look();
    // What is still on its way is of a face that is no longer there.
    view.wanted++;
    view.frames = [];
    this.isReady = false;
    this.doing = "";
    return null;
  },
  put(change) {
    this.faces = this.faces.map((f, i) => (i === this.shown ? { ...f, ...change } : f));
  },
  get stand() {
    return JSON.stringify([this.faces, this.shown, this.isFree, this.strokes]);
  },
  // Every change is a step that can be taken back.
  remember() {
    this.past = [...this.past, this.stand];
    this.future = [];
  },
  async step(from, to) {
    await this.settled();
    if (!this[from].length) return null;
    this[to] = [...this[to], this.stand];
    [this.faces, this.shown, this.isFree, this.strokes] = JSON.parse(this[from].at(-1));
    this[from] = this[from].slice(0, -1);
    this.drawMarks();
    return this.look();
  },
  undo() {
    return this.step("past", "future");
  },
  redo() {
    return this.step("future", "past");
  },
  keys(event) {
    if (event.target.matches("input, select, textarea")) return;
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      event.preventDefault();
      if (event.shiftKey) this.redo();
      else this.undo();
    } else if (arrows[event.key] && this.picked) {
      event.preventDefault();
      const by = event.shiftKey ? 5 : 1;
      this.nudge(arrows[event.key][0] * by, arrows[event.key][1] * by);
    } else if (event.key === "Escape" && (this.isBoxing || this.tool)) {
      this.isBoxing = false;
      this.takeTool(this.tool);
    }
  },
  change(part) {
    this.remember();
    this.put(part);
    return this.look();
  },
  rename(event) {
    const name = event.target.value.trim();
    if (name) this.change({ name });
    else event.target.value = this.face.name;
  },
  setKind(event) {
    return this.change({ kind: event.target.value });
  },
  giveVoice(event) {
    return this.change({ voice: event.target.value });
  },
  setTeeth(event) {
    return this.change({ teeth: event.target.value });
  },
  setEyes(event) {
    return this.change({ eyes: event.target.value });
  },
  toggleFree() {
    this.remember();
    this.isFree = !this.isFree;
    return this.look();
  },
  get order() {
    return {
      picture: this.picture.hash,
      isFree: this.isFree,
      strokes: this.strokes,
      faces: this.faces.map(({ name, voice, kind, marks, teeth, eyes, parts }) => ({ name, voice, kind, marks, teeth, eyes, parts })),
    };
  },
  // What is looked at last is what is shown, whatever comes back first.
  async look() {
    if (!this.faces.length) return;
    const number = ++view.wanted;
    const body = { order: this.order, which: this.shown, mood: this.mood || null, isAlone: this.isAlone };
    this.doing = "Making it move…";
    try {
      const [shapes, frames] = await Promise.all([post("/api/portraits/shapes", body), post("/api/portraits/frames", body)]);
      if (number !== view.wanted) return;
      await view.painter.take(shapes);
      view.frames = unpacked(frames);
      view.begun ||= performance.now();
      this.isReady = true;
      this.error = "";
    } catch (e) {
      if (number === view.wanted) this.error = e.message;
    }
    if (number === view.wanted) this.doing = "";
  },
  toggleSize() {
    this.isNear = !this.isNear;
  },
  // The part of the stage that is shown: the face, or the picture.
  shownPart() {
    const { width, height } = this.picture;
    const scale = Math.min(1280 / width, 720 / height);
    const canvas = this.$refs.stage;
    const shape = canvas.width / canvas.height;
    const outline = this.face?.marks.outline;
    if (!this.isNear || !outline) return [640, 360, Math.max(width * scale, height * scale * shape)];
    const [xs, ys] = [outline.map((m) => m.x), outline.map((m) => m.y)];
    const [left, right, top, low] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    const side = 1.7 * scale * Math.max(right - left, (low - top) * Math.max(1, shape));
    return [640 + ((left + right) / 2 - width / 2) * scale, 360 + ((top + low) / 2 - height / 2) * scale, side];
  },
  draw() {
    const canvas = this.$refs.stage;
    const list = view.frames;
    if (!list.length || !view.painter.shapes || !this.picture) return;
    const isResized = view.painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
    view.painter.look(this.shownPart());
    const frame = Math.floor(((performance.now() - view.begun) / 1000) * 25) % list.length;
    // Only what is new is drawn.
    const shows = `${frame} ${view.wanted} ${this.shownPart()}`;
    if (!isResized && shows === view.shows) return;
    view.shows = shows;
    view.painter.draw(list[frame]);
  },
  hear() {
    view.audio?.pause();
    const text = encodeURIComponent("Fresh rolls at six, and not a minute later.");
    view.audio = new Audio(`/api/voices/sample?key=${encodeURIComponent(this.face.voice)}&text=${text}`);
    view.audio.onplay = () => (view.begun = performance.now() - 1000 * before);
    view.audio.play().catch(() => (this.error = "The voice could not be heard."));
  },
  async keep() {
    this.doing = "Keeping it…";
    try {
      return await post("/api/portraits", this.order);
    } catch (e) {
      this.error = e.message;
      return null;
    } finally {
      this.doing = "";
    }
  },
  async save() {
    if (this.isClipReady) return (location.href = "/casting?kind=own");
    if (await this.keep()) location.href = "/casting?kind=own";
  },
  // One face goes on to One take, several into a production of their own.
  async film() {
    if (this.isClipReady) return this.filmClip();
    const made = await this.keep();
    if (!made) return;
    if (made.keys.length === 1) {
      location.href = `/one-take?character=${made.keys[0]}&backdrop=${encodeURIComponent(made.set)}&size=${made.size}`;
      return;
    }
    try {
      const { id } = await post("/api/portraits/production", { title: this.faces[0].name, ...made });
      location.href = `/production/${id}`;
    } catch (e) {
      this.error = e.message;
    }
  },
});

Alpine.data("portrait", () =>
  Object.defineProperties(page(), {
    ...Object.getOwnPropertyDescriptors(marking()),
    ...Object.getOwnPropertyDescriptors(retouching()),
    ...Object.getOwnPropertyDescriptors(stripping()),
    ...Object.getOwnPropertyDescriptors(clipping()),
    ...Object.getOwnPropertyDescriptors(mapping()),
  }),
);
Alpine.start();
