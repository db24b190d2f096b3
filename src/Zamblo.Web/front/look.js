// A production for whoever has its link: scene after scene, with what is said beside it. Nothing of it can be changed here.
import Alpine from "@alpinejs/csp";
import { applyTheme, get } from "./api.js";
import { Player } from "./player.js";
import { FrameStore, StagePainter } from "./stage.js";
import { everyFrame } from "./ticking.js";

applyTheme();

const base = location.pathname.replace(/\/$/, "");
// The largest part of the window's height that the picture takes, and so far an arrow goes, in seconds.
const tallest = 0.62;
const step = 3;
const clock = (t) => `${Math.floor(t / 60)}:${String(Math.floor(t % 60)).padStart(2, "0")}`;

// What Alpine must not wrap.
const player = new Player();
const view = { painter: null, frames: null, scene: null, shown: -1 };

Alpine.data("lookPage", () => ({
  scenes: [],
  at: 0,
  lines: [],
  line: -1,
  time: 0,
  duration: 0,
  playing: false,
  isLoaded: false,
  error: "",

  async init() {
    view.painter = new StagePainter(this.$refs.stage, base);
    view.painter.onPicture = () => (view.shown = -1);
    player.onError = (e) => (this.error = e.message);
    // One scene follows the other.
    player.onStop = () => player.position >= player.duration && this.at + 1 < this.scenes.length && this.go(this.at + 1, true);
    try {
      const all = await get(`${base}/scenes`);
      this.scenes = all.map((s, n) => ({ ...s, n }));
      await this.go(0, false);
    } catch (e) {
      this.error = e.message;
    }
    everyFrame(
      () => this.show(),
      () => player.playing,
    );
  },
  async go(n, plays) {
    if (!this.scenes[n]) return;
    player.pause();
    this.error = "";
    const address = `${base}/scenes/${this.scenes[n].id}`;
    try {
      const scene = await get(address);
      const { version, sound } = scene;
      const frames = new FrameStore((from, count) => `${address}/frames?from=${from}&count=${count}&r=${version}`, scene.frames);
      frames.onArrival = () => (view.shown = -1);
      await view.painter.load(`${address}/shapes?r=${version}`);
      view.painter.look(scene.view);
      Object.assign(view, { scene, frames, shown: -1 });
      player.position = 0;
      player.load((from, to) => `${address}/sound?from=${from}&to=${to}&r=${sound}`, scene.duration, `${n} ${sound}`);
      this.at = n;
      this.lines = scene.lines.map((l, i) => ({ ...l, i, when: clock(l.start) }));
      this.duration = scene.duration;
      this.isLoaded = true;
      if (plays) player.play();
    } catch (e) {
      this.error = e.message;
    }
  },
  show() {
    const { scene, frames, painter } = view;
    if (!scene) return;
    const canvas = this.$refs.stage;
    const w = Math.min(this.$refs.frame.clientWidth, (innerHeight * tallest * scene.width) / scene.height);
    canvas.style.width = `${w}px`;
    canvas.style.height = `${(w * scene.height) / scene.width}px`;
    if (painter.resize(Math.round(w * devicePixelRatio), Math.round((w * scene.height * devicePixelRatio) / scene.width))) view.shown = -1;
    this.playing = player.playing;
    if (Math.abs(this.time - player.time) > 0.02) this.time = player.time;
    this.line = this.lines.findLastIndex((l) => l.start <= this.time && this.time < l.end + 0.3);
    const frame = Math.min(scene.frames - 1, Math.floor(player.time * scene.fps + 1e-6));
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
  goTo(line) {
    player.seek(line.start);
  },
  key(event) {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const does = {
      " ": () => this.toggle(),
      ArrowRight: () => player.seek(player.time + step),
      ArrowLeft: () => player.seek(player.time - step),
      Home: () => player.seek(0),
      PageDown: () => this.go(this.at + 1, player.playing),
      PageUp: () => this.go(this.at - 1, player.playing),
    }[event.key];
    // A button that has the focus is pressed by Space, a slider is moved by arrows.
    if (!does || (event.key === " " && event.target.matches("button, a")) || (event.key.startsWith("Arrow") && event.target.matches("input"))) return;
    event.preventDefault();
    does();
  },
  get hasScenes() {
    return this.scenes.length > 1;
  },
  get isSilent() {
    return this.isLoaded && this.lines.length === 0;
  },
  get clockText() {
    return `${clock(this.time)} / ${clock(this.duration)}`;
  },
}));
Alpine.start();
