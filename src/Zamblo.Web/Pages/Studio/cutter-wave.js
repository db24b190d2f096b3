// The waveform that is cut by hand: as near as it is looked at, with the stretches over it.
import { get } from "../../front/api.js";
import { clock } from "../../front/score.js";

// Kept out of the component: what is drawn, and what the pointer holds.
export const view = { from: 0, to: 1, peaks: null, drag: null, number: 0 };

export const cutterWave = () => ({
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
});
