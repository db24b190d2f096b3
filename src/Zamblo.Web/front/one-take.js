// One take: choose, say it, have the film. A production like any other lies behind it.
import Alpine from "@alpinejs/csp";
import { applyTheme, get, patch, post } from "./api.js";
import { mix } from "../Pages/Studio/mix.js";
import { filming } from "./one-take-film.js";
import { speaking } from "./one-take-voice.js";
import { player, view } from "./one-take-shared.js";
import { FrameStore, StagePainter } from "./stage.js";
import { everyFrame } from "./ticking.js";

applyTheme();

const kept = "one-take";
const wait = (ms) => new Promise((r) => setTimeout(r, ms));

const page = () => ({
  error: "",
  characters: [],
  sets: [],
  formats: [
    { size: "1280x720", name: "Wide" },
    { size: "720x1280", name: "Tall" },
    { size: "1080x1080", name: "Square" },
    { size: "1080x1350", name: "Portrait" },
    { size: "1920x1080", name: "Wide, large" },
  ],
  character: "maro",
  backdrop: "bakery",
  size: "1280x720",
  captions: false,
  litWords: false,
  production: "",
  isReady: false,
  isMaking: false,
  doing: "",
  share: 0,
  playing: false,
  time: 0,
  duration: 0,

  async init() {
    // What was chosen last time.
    Object.assign(this, JSON.parse(localStorage.getItem(kept) ?? "{}"));
    // What was made from a picture comes with its set and its size.
    Object.assign(this, Object.fromEntries([...new URLSearchParams(location.search)].filter(([key]) => ["character", "backdrop", "size"].includes(key))));
    if (!this.formats.some((f) => f.size === this.size)) this.formats = [{ size: this.size, name: "As the picture" }, ...this.formats];
    view.painter = new StagePainter(this.$refs.stage);
    view.painter.onPicture = () => (view.shown = -1);
    player.onError = (e) => (this.error = e.message);
    try {
      [this.characters, this.sets] = await Promise.all([get("/api/characters"), get("/api/sets")]);
    } catch (e) {
      this.error = e.message;
    }
    everyFrame(
      () => this.show(),
      () => player.playing,
    );
  },
  get isTall() {
    const [w, h] = this.size.split("x").map(Number);
    return h > w;
  },
  pictureFailed() {
    this.error = "The picture could not be drawn.";
  },
  async attempt(work) {
    try {
      this.error = "";
      return await work();
    } catch (e) {
      this.error = e.message;
      return null;
    }
  },
  remember() {
    const { character, size, captions, litWords } = this;
    // A picture of one's own belongs to its film.
    const backdrop = this.backdrop.startsWith("picture:") ? "bakery" : this.backdrop;
    localStorage.setItem(kept, JSON.stringify({ character, backdrop, size, captions, litWords }));
  },
  // Before there is a voice a choice is only kept; after, it is seen at once.
  choose(key, value) {
    this[key] = value;
    this.remember();
    if (!this.production) return;
    return this.change(() => {
      if (key === "character") return patch(`/api/members/${view.member}`, { character: value });
      if (key === "backdrop") return patch(`/api/scenes/${view.scene}`, { backdrop: value });
      return patch(`/api/productions/${this.production}`, { size: value });
    });
  },
  async ownSet(event) {
    const [file] = event.target.files;
    event.target.value = "";
    const sent = file && (await this.attempt(() => post(`/api/pictures?name=${encodeURIComponent(file.name)}`, file)));
    if (sent) return this.choose("backdrop", sent.set);
  },
  setCaptions(event) {
    this.captions = event.target.checked;
    return this.letter();
  },
  setLitWords(event) {
    this.litWords = event.target.checked;
    return this.letter();
  },
  letter() {
    this.remember();
    const lettering = { hasCaptions: this.captions, hasLitWords: this.litWords };
    if (this.production) return this.change(() => patch(`/api/productions/${this.production}`, { lettering }));
  },
  // One change after the other; then all of it is shown and filmed anew.
  change(send) {
    view.queue = view.queue.then(() =>
      this.attempt(async () => {
        await send();
        await this.load();
        this.renderSoon();
      }),
    );
    return view.queue;
  },
  // From an order to a line that is heard.
  async make(order) {
    this.isMaking = true;
    this.share = 0.05;
    this.doing = "Taking it in…";
    const done = await this.attempt(async () => {
      const { character, backdrop, size, captions, litWords } = this;
      const start = await post("/api/one-take", { character, backdrop, size, hasCaptions: captions, hasLitWords: litWords, ...order });
      Object.assign(view, { scene: start.scene, member: start.member });
      await this.untilHeard(start);
      this.production = start.production;
      await this.load();
      return true;
    });
    this.isMaking = false;
    if (!done) return;
    this.isReady = true;
    // Once it is to be seen it has a size.
    await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)));
    await this.drawWave(view.state.lines[0]);
    this.render();
  },
  async untilHeard({ production, scene }) {
    for (;;) {
      const [state, jobs] = await Promise.all([get(`/api/scenes/${scene}`), get(`/api/productions/${production}/jobs`)]);
      const failed = jobs.find((j) => j.state === "failed");
      if (failed) throw new Error(failed.error);
      const [line] = state.lines;
      if (line && !line.listening && line.phones) return;
      const job = jobs.find((j) => j.state === "running");
      this.doing = { speak: "Speaking…", take: "Taking it in…", listen: "Listening…" }[job?.kind] ?? "Taking it in…";
      this.share = Math.max(this.share, job ? 0.1 + 0.85 * job.progress : 0.1);
      await wait(250);
    }
  },
  async load() {
    const state = await get(`/api/scenes/${view.scene}`);
    const version = `${state.production.revision}.${state.heard}`;
    view.state = state;
    const base = `/api/scenes/${view.scene}`;
    view.frames = new FrameStore((from, count) => `${base}/frames?from=${from}&count=${count}&r=${version}`, state.frames);
    view.frames.onArrival = () => (view.shown = -1);
    player.load((from, to, speed) => `${base}/sound?from=${from}&to=${to}&speed=${speed}&r=${state.sound}`, state.duration, state.sound);
    await view.painter.load(`${base}/shapes?r=${version}`);
    view.painter.look(state.production.view);
    this.duration = state.duration;
    view.shown = -1;
    await this.tellVoice(state);
  },
  show() {
    const { state, frames, painter } = view;
    if (!state || !this.isReady) return;
    const { width, height } = state.production;
    const canvas = this.$refs.stage;
    const room = this.$refs.frame.clientWidth;
    const w = Math.min(room, (Math.min(innerHeight * 0.62, 620) * width) / height);
    canvas.style.width = `${w}px`;
    canvas.style.height = `${(w * height) / width}px`;
    if (painter.resize(Math.round(w * devicePixelRatio), Math.round((w * height * devicePixelRatio) / width))) view.shown = -1;
    const frame = Math.min(state.frames - 1, Math.floor(player.time * state.fps + 1e-6));
    this.playing = player.playing;
    if (Math.abs(this.time - player.time) > 0.02) this.time = player.time;
    if (frame === view.shown) return;
    const items = frames.get(frame);
    if (!items) return;
    painter.draw(items);
    view.shown = frame;
    canvas.dataset.frame = frame;
  },
  toggle() {
    if (player.playing) player.pause();
    else player.play();
  },
  seek(event) {
    player.seek(Number(event.target.value));
  },
  get clockText() {
    return `${this.time.toFixed(1)} / ${this.duration.toFixed(1)} s`;
  },
  // The production stays on the shelf.
  another() {
    player.pause();
    Object.assign(this, { production: "", isReady: false, text: "", mood: "", clean: false });
    this.film = { state: "none", share: 0, address: "", page: "" };
    view.state = null;
  },
});

Alpine.data("oneTake", () => mix(page(), speaking(), filming()));
Alpine.start();
