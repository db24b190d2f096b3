import Alpine from "@alpinejs/csp";
import { applyTheme, get, post } from "./api.js";
import { Player } from "./player.js";
import { FrameStore, StagePainter } from "./stage.js";

applyTheme();
const player = new Player();
const base64 = (file) =>
  new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result.slice(reader.result.indexOf(",") + 1));
    reader.onerror = () => failed(new Error(`"${file.name}" cannot be read.`));
    reader.readAsDataURL(file);
  });
let painter, frames;
let shown = -1;

Alpine.data("character", () => ({
  ready: false,
  playing: false,
  frame: 0,
  count: 0,
  fps: 25,
  error: "",
  working: false,

  async init() {
    this.character = `/api/characters/${this.$root.dataset.character}`;
    this.base = `${this.character}/sentence`;
    painter = new StagePainter(this.$refs.stage);
    painter.onPicture = () => (shown = -1);
    try {
      const about = await get(this.base);
      this.count = about.frames;
      this.fps = about.fps;
      frames = new FrameStore((from, count) => `${this.base}/frames?from=${from}&count=${count}`, about.frames);
      frames.onArrival = () => (shown = -1);
      await painter.load(`${this.base}/shapes`);
      player.load((from, to, speed) => `${this.base}/sound?speed=${speed}`, about.duration, "");
      this.ready = true;
    } catch (e) {
      this.error = e.message;
      return;
    }
    const tick = () => {
      this.show();
      requestAnimationFrame(tick);
    };
    tick();
  },
  show() {
    const ratio = devicePixelRatio;
    if (painter.resize(Math.round(this.$refs.stage.clientWidth * ratio), Math.round((this.$refs.stage.clientWidth * ratio * 9) / 16))) shown = -1;
    const frame = Math.min(this.count - 1, Math.floor(player.time * this.fps + 1e-6));
    this.playing = player.playing;
    if (frame === shown) return;
    const items = frames.get(frame);
    if (!items) return;
    painter.draw(items);
    shown = frame;
    this.frame = frame;
  },
  toggle() {
    if (player.playing) player.pause();
    else player.play();
  },
  step(n) {
    player.pause();
    player.position = (Math.max(0, Math.min(this.count - 1, this.frame + n)) + 0.001) / this.fps;
    player.grain(player.position, 0.06);
  },
  back() {
    this.step(-1);
  },
  forth() {
    this.step(1);
  },
  async setSpeed(event) {
    const speed = Number(event.target.value);
    try {
      player.setSpeed(speed);
      await player.fetchPiece(0);
    } catch (e) {
      this.error = e.message;
    }
  },
  // A changed character is another one: its sheet is opened where this one's was.
  async change(url, body) {
    this.error = "";
    this.working = true;
    try {
      const { key } = await post(url, body);
      location.replace(`/character/${key}`);
    } catch (e) {
      this.error = e.message;
      this.working = false;
    }
  },
  async bringMouths(event) {
    const files = await Promise.all([...event.target.files].map(async (f) => ({ name: f.name, data: await base64(f) })));
    event.target.value = "";
    if (files.length > 0) await this.change(`${this.character}/mouths`, { files });
  },
  takeOff() {
    return this.change(`${this.character}/mouths/off`);
  },
  serve(event) {
    return this.change(`${this.character}/mouths/${event.target.dataset.shape}?by=${event.target.value}`);
  },
  get frameText() {
    return this.ready ? `frame ${this.frame} of ${this.count - 1}` : "Getting ready…";
  },
}));

Alpine.start();
