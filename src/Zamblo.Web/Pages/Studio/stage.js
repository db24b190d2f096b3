// The stage: what is seen at the playhead, and the keys that move it.
import { StagePainter } from "../../front/stage.js";
import { act, onKey, player, score, stage } from "./shared.js";
import { clock } from "../../front/score.js";
import { everyFrame } from "../../front/ticking.js";

export const stagePanel = () => ({
  show() {
    if (!this.scene || !stage.frames) return;
    const canvas = this.$refs.stage;
    const ratio = devicePixelRatio;
    const { width, height } = this.scene.production;
    const box = canvas.parentElement;
    const scale = Math.min(box.clientWidth / width, box.clientHeight / height);
    const w = Math.floor(width * scale);
    const h = Math.floor(height * scale);
    if (canvas.style.width !== `${w}px` || canvas.style.height !== `${h}px`) {
      canvas.style.width = `${w}px`;
      canvas.style.height = `${h}px`;
    }
    if (stage.painter.resize(Math.round(w * ratio), Math.round(h * ratio))) stage.shown = -1;
    const t = player.time;
    const frame = Math.min(this.scene.frames - 1, Math.floor(t * this.scene.fps + 1e-6));
    if (frame !== stage.shown) {
      // While somebody performs, the frames with the hand in them are shown.
      const items = this.isPerforming ? null : stage.frames.get(frame);
      if (items) {
        stage.painter.draw(items);
        stage.shown = frame;
        canvas.dataset.frame = frame;
      }
    }
    stage.onShown();
    const at = `${canvas.offsetLeft}px ${canvas.offsetTop}px ${w}px ${h}px`;
    if (this.pictureAt !== at) this.pictureAt = at;
    if (this.time !== t) {
      this.time = t;
      this.frame = frame;
      if (player.playing) score.view?.follow(t);
    }
    this.playing = player.playing;
    score.view?.update(t, this.loop, this.selectedLine);
  },
  get clockText() {
    return `${clock(this.time, true)}`;
  },
  get frameText() {
    return this.scene ? `frame ${this.frame} of ${this.scene.frames - 1}` : "";
  },
  // Where the picture is, for what lies over it.
  pictureAt: "",
  get pictureStyle() {
    const [left, top, width, height] = this.pictureAt.split(" ");
    return { left, top, width, height };
  },
  hasGuides: localStorage.getItem("guides") === "yes",
  toggleGuides() {
    this.hasGuides = !this.hasGuides;
    localStorage.setItem("guides", this.hasGuides ? "yes" : "no");
  },
  isWhole: false,
  toggleWhole() {
    stage.painter.isWhole = this.isWhole = !this.isWhole;
    stage.showAgain();
  },
  back() {
    this.step(-1);
  },
  forth() {
    this.step(1);
  },
  toStart() {
    this.goTo(0, false);
  },
  setSpeed(event) {
    const speed = Number(event.target.value);
    return this.attempt(async () => {
      player.setSpeed(speed);
      this.speed = speed;
      await player.fetchPiece(player.pieceAt(player.position));
    });
  },
  setIn() {
    const end = this.loop && this.loop.end > player.position + 0.05 ? this.loop.end : this.scene.duration;
    this.setLoop({ start: player.position, end });
  },
  setOut() {
    const start = this.loop && this.loop.start < player.position - 0.05 ? this.loop.start : 0;
    if (player.position > 0.05) this.setLoop({ start, end: player.position });
  },
  toggleLoop() {
    if (this.loop) return this.setLoop(null);
    const line = this.scene.lines.find((l) => l.id === this.selectedLine && l.start !== null);
    this.setLoop(line ? { start: line.start, end: line.start + line.duration } : { start: 0, end: this.scene.duration });
  },
  init() {
    stage.painter = new StagePainter(this.$refs.stage);
    stage.painter.onPicture = () => (stage.shown = -1);
    stage.painter.onDrawn = (items) => stage.onDrawn(items);
    everyFrame(
      () => this.show(),
      () => player.playing || this.isPerforming,
    );
    onKey(60, (key) => this.transportKey(key));
  },
  transportKey({ name, control, shift }) {
    if (control) return act({ ArrowLeft: () => this.stepWord(-1), ArrowRight: () => this.stepWord(1) }, name);
    const map = {
      " ": () => this.toggle(),
      ArrowLeft: () => this.step(shift ? -10 : -1),
      ArrowRight: () => this.step(shift ? 10 : 1),
      Home: () => this.goTo(0, false),
      End: () => this.goTo(this.scene.duration, false),
      j: () => this.goTo(player.position - 1),
      k: () => player.pause(),
      l: () => (player.playing ? player.play(2) : player.play()),
      i: () => this.setIn(),
      o: () => this.setOut(),
      p: () => this.toggleLoop(),
      PageUp: () => this.turnScene(-1),
      PageDown: () => this.turnScene(1),
      b: () => this.toggleBare(),
      c: () => this.toggleWhole(),
      g: () => this.toggleGuides(),
    };
    return act(map, name);
  },
  stopPerforming() {
    this.$dispatch("stop-performing");
  },
});
