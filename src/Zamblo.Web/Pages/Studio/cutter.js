// A long file is cut by hand: a drag over its waveform makes a stretch, and each stretch becomes a line.
import { get, post } from "../../front/api.js";
import { clock } from "../../front/score.js";
import { player, score } from "./shared.js";

const shortest = 0.1;
// So near, in pixels, the pointer takes an edge.
const near = 6;

// Kept out of the component: what is drawn, and what the pointer holds.
const view = { from: 0, to: 1, peaks: null, drag: null, number: 0 };

export const cutterPanel = () => ({
  cut: { open: false, hash: "", name: "", seconds: 0, parts: [], picked: null, error: "", busy: false, member: null },
  async openCutter({ hash, name, seconds, member }) {
    Object.assign(this.cut, { open: true, hash, name, seconds, parts: [], picked: null, error: "", busy: false, member });
    Object.assign(view, { from: 0, to: seconds, drag: null });
    this.$refs.cutter.showModal();
    await this.lookAtCut();
  },
  closeCutter() {
    this.$refs.cutter.close();
    this.cut.open = false;
  },
  async lookAtCut() {
    const canvas = this.$refs.wave;
    const columns = Math.max(1, Math.round(canvas.clientWidth));
    const answer = await get(`/api/assets/${this.cut.hash}/peaks?from=${view.from}&to=${view.to}&columns=${columns}`).catch(
      (e) => void (this.cut.error = e.message),
    );
    if (answer) view.peaks = Uint8Array.from(atob(answer.peaks), (c) => c.charCodeAt(0));
    this.drawCut();
  },
  cutX(t) {
    return ((t - view.from) / (view.to - view.from)) * this.$refs.wave.clientWidth;
  },
  cutTime(x) {
    return Math.max(0, Math.min(this.cut.seconds, view.from + (x / this.$refs.wave.clientWidth) * (view.to - view.from)));
  },
  drawCut() {
    const canvas = this.$refs.wave;
    const ratio = devicePixelRatio;
    const [w, h] = [canvas.clientWidth, canvas.clientHeight];
    canvas.width = Math.round(w * ratio);
    canvas.height = Math.round(h * ratio);
    const c = canvas.getContext("2d");
    const color = (name) => getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
    c.scale(ratio, ratio);
    c.fillStyle = color("paper");
    c.fillRect(0, 0, w, h);
    c.fillStyle = color("soft");
    // Soft voices are to be seen too: the root opens the low end up.
    if (view.peaks)
      for (let x = 0; x < w; x++) {
        const y = Math.max(0.5, (Math.sqrt((view.peaks[Math.floor((x * view.peaks.length) / w)] ?? 0) / 255) * (h - 26)) / 2);
        c.fillRect(x, (h + 14) / 2 - y, 1, 2 * y);
      }
    const step = [0.1, 0.5, 1, 5, 10, 30, 60, 300, 600].find((s) => (s / (view.to - view.from)) * w > 60) ?? 1800;
    c.font = '11px "Mono"';
    c.textBaseline = "top";
    for (let n = Math.ceil(view.from / step); n * step < view.to; n++) c.fillText(clock(n * step, step < 1), this.cutX(n * step) + 2, 2);
    this.cut.parts.forEach((part, i) => {
      const [x0, x1] = [this.cutX(part.start), this.cutX(part.end)];
      c.fillStyle = this.scene.members.find((m) => m.id === part.member)?.ink ?? color("ink");
      c.globalAlpha = part.key === this.cut.picked ? 0.35 : 0.2;
      c.fillRect(x0, 16, x1 - x0, h - 16);
      c.globalAlpha = 1;
      c.fillRect(x0, 16, 1.5, h - 16);
      c.fillRect(x1 - 1.5, 16, 1.5, h - 16);
      c.fillStyle = color("ink");
      c.fillText(String(i + 1), x0 + 4, 19);
    });
  },
  cutDown(event) {
    const t = this.cutTime(event.offsetX);
    event.target.setPointerCapture(event.pointerId);
    const reach = (near / this.$refs.wave.clientWidth) * (view.to - view.from);
    for (const part of this.cut.parts)
      for (const side of ["start", "end"])
        if (Math.abs(part[side] - t) < reach) {
          this.cut.picked = part.key;
          view.drag = { part, side };
          return;
        }
    const under = this.cut.parts.find((p) => t > p.start && t < p.end);
    if (under) {
      this.cut.picked = under.key;
      return this.drawCut();
    }
    view.drag = { from: t, part: null };
  },
  cutMove(event) {
    const { drag } = view;
    if (!drag) return;
    const t = this.cutTime(event.offsetX);
    if (!drag.part) {
      if (Math.abs(t - drag.from) < shortest) return;
      this.addPart(Math.min(t, drag.from), Math.max(t, drag.from));
      drag.part = this.cut.parts.find((p) => p.key === this.cut.picked);
      drag.side = t > drag.from ? "end" : "start";
    }
    this.movePart(drag.part, drag.side, t);
  },
  cutUp() {
    view.drag = null;
  },
  cutWheel(event) {
    const span = view.to - view.from;
    const around = this.cutTime(event.offsetX);
    if (event.ctrlKey) {
      const size = Math.min(this.cut.seconds, Math.max(0.5, span * (event.deltaY < 0 ? 1 / 1.4 : 1.4)));
      view.from = Math.max(0, Math.min(this.cut.seconds - size, around - ((around - view.from) / span) * size));
      view.to = view.from + size;
    } else {
      const by = ((event.deltaX || event.deltaY) / this.$refs.wave.clientWidth) * span;
      view.from = Math.max(0, Math.min(this.cut.seconds - span, view.from + by));
      view.to = view.from + span;
    }
    clearTimeout(view.timer);
    view.timer = setTimeout(() => this.lookAtCut(), 80);
    this.drawCut();
  },
  cutZoomIn() {
    this.cutZoom(1 / 2);
  },
  cutZoomOut() {
    this.cutZoom(2);
  },
  cutZoom(factor) {
    const picked = this.cut.parts.find((p) => p.key === this.cut.picked);
    const middle = picked ? (picked.start + picked.end) / 2 : (view.from + view.to) / 2;
    const size = Math.min(this.cut.seconds, Math.max(0.5, (view.to - view.from) * factor));
    view.from = Math.max(0, Math.min(this.cut.seconds - size, middle - size / 2));
    view.to = view.from + size;
    return this.lookAtCut();
  },
  addPart(start, end) {
    const last = this.cut.parts.at(-1);
    const key = ++view.number;
    this.cut.parts.push({ key, start, end, member: last?.member ?? this.cut.member ?? this.selectedMember, text: "" });
    this.cut.parts.sort((a, b) => a.start - b.start);
    this.cut.picked = key;
    this.drawCut();
  },
  // A stretch for the keyboard: after the last one, three seconds long.
  addPartAfter() {
    const start = Math.min(this.cut.parts.at(-1)?.end ?? 0, this.cut.seconds - shortest);
    this.addPart(start, Math.min(this.cut.seconds, start + 3));
  },
  // Stretches do not overlap: a neighbour stops the edge.
  movePart(part, side, t) {
    const list = this.cut.parts;
    const i = list.indexOf(part);
    if (side === "start") part.start = Math.max(list[i - 1]?.end ?? 0, Math.min(t, part.end - shortest));
    else part.end = Math.min(list[i + 1]?.start ?? this.cut.seconds, Math.max(t, part.start + shortest));
    this.drawCut();
  },
  setPartTime(part, side, event) {
    if (Number.isFinite(event.target.valueAsNumber)) this.movePart(part, side, event.target.valueAsNumber);
    event.target.value = part[side].toFixed(2);
  },
  setPartMember(part, event) {
    part.member = event.target.value;
    this.drawCut();
  },
  pickPart(part) {
    this.cut.picked = part.key;
    this.drawCut();
  },
  dropPart(part) {
    this.cut.parts = this.cut.parts.filter((p) => p.key !== part.key);
    this.drawCut();
  },
  playPart(part) {
    this.pickPart(part);
    return this.attempt(async () => {
      const response = await fetch(`/api/assets/${this.cut.hash}/sound?from=${part.start}&to=${part.end}`);
      if (response.ok) await player.playBytes(await response.arrayBuffer());
    });
  },
  get cutText() {
    const n = this.cut.parts.length;
    return n === 0 ? "Make lines" : n === 1 ? "Make a line" : `Make ${n} lines`;
  },
  async makeParts() {
    this.cut.busy = true;
    this.cut.error = "";
    const { hash, name } = this.cut;
    const parts = this.cut.parts.map(({ start, end, member, text }) => ({ start, end, member, text }));
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/parts`, { revision: this.revision, hash, name, parts }));
    this.cut.busy = false;
    if (!done) {
      this.cut.error = this.error;
      return;
    }
    this.closeCutter();
    this.fitScore();
    this.say(done.lines === 1 ? "One line from the file." : `${done.lines} lines from the file.`);
  },
  fitScore() {
    score.view.fit();
  },
});
