// The score: ruler, and a staff per cast member with its voice (level, words, phones) and its lip strip.
const gutter = 116;
const ruler = 26;
const voiceLane = 50;
const mouthLane = 34;
const staffGap = 10;
export const staffHeight = voiceLane + mouthLane + staffGap;

export class Score {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.scroll = 0;
    this.pixelsPerSecond = 90;
    this.scene = null;
    this.time = 0;
    this.loop = null;
    this.selected = null;
    this.pictures = new Map();
  }

  // Draws when something is to be seen that was not there before.
  update(time, loop, selected) {
    this.time = time;
    this.loop = loop;
    this.selected = selected;
    const box = this.canvas.parentElement;
    const state = [
      time,
      loop?.start,
      loop?.end,
      selected,
      this.scroll,
      this.pixelsPerSecond,
      box.clientWidth,
      box.clientHeight,
      devicePixelRatio,
      document.documentElement.dataset.theme,
    ].join();
    if (state === this.shown) return;
    this.shown = state;
    this.draw();
  }

  setScene(scene) {
    this.scene = scene;
    this.shown = null;
    this.pictures.clear();
    for (const [key, p] of Object.entries(scene.mouths))
      this.pictures.set(key, { ...p, paths: p.paths.map((s) => ({ ...s, path: s.d ? new Path2D(s.d) : null })) });
    for (const line of scene.lines) {
      if (!line.levels || line.bytes) continue;
      const text = atob(line.levels);
      line.bytes = Uint8Array.from(text, (c) => c.charCodeAt(0));
    }
  }

  get visibleSeconds() {
    return (this.width - gutter) / this.pixelsPerSecond;
  }

  fit() {
    if (!this.scene) return;
    this.width = this.canvas.clientWidth;
    this.pixelsPerSecond = Math.min(600, Math.max(8, (this.width - gutter - 24) / this.scene.duration));
    this.scroll = 0;
  }

  zoom(factor, around = this.time) {
    const x = this.x(around);
    this.pixelsPerSecond = Math.min(1200, Math.max(8, this.pixelsPerSecond * factor));
    this.scroll = around - (Math.min(Math.max(x, gutter), this.width) - gutter) / this.pixelsPerSecond;
    this.clampScroll();
  }

  clampScroll() {
    this.scroll = Math.max(0, Math.min(this.scroll, Math.max(0, this.scene.duration + 0.5 - this.visibleSeconds)));
  }

  follow(time) {
    if (time < this.scroll || time > this.scroll + this.visibleSeconds * 0.95) {
      this.scroll = time - this.visibleSeconds * 0.1;
      this.clampScroll();
    }
  }

  x(t) {
    return gutter + (t - this.scroll) * this.pixelsPerSecond;
  }

  timeAt(x) {
    return this.scroll + (x - gutter) / this.pixelsPerSecond;
  }

  // What lies at a point: a line, and a word or cue of it.
  hit(x, y) {
    if (!this.scene || x < gutter || y < ruler) return null;
    const m = Math.floor((y - ruler) / staffHeight);
    const member = this.scene.members[m];
    const t = this.timeAt(x);
    if (!member) return null;
    const line = this.scene.lines.find((l) => l.member === member.id && l.start != null && t >= l.start && t < l.start + l.duration);
    if (!line) return { member };
    const local = t - line.start;
    const onMouth = (y - ruler) % staffHeight > voiceLane;
    const list = onMouth ? line.cues : line.words?.length ? line.words : line.phones;
    const index = (list ?? []).findIndex((w) => local >= w[1] && local < w[2]);
    return { member, line, lane: onMouth ? "mouth" : "voice", index, item: index >= 0 ? list[index] : null };
  }

  draw() {
    const { canvas, context: c } = this;
    const ratio = devicePixelRatio;
    const width = canvas.clientWidth;
    const members = this.scene?.members.length ?? 0;
    const height = Math.max(canvas.parentElement.clientHeight, ruler + members * staffHeight);
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      canvas.width = Math.round(width * ratio);
      canvas.height = Math.round(height * ratio);
      canvas.style.height = `${height}px`;
    }
    this.width = width;
    this.height = height;
    const style = getComputedStyle(document.documentElement);
    this.color = (name) => style.getPropertyValue(`--${name}`).trim();
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = this.color("sheet");
    c.fillRect(0, 0, width, height);
    if (!this.scene) return;
    this.scene.members.forEach((m, i) => this.drawStaff(m, ruler + i * staffHeight));
    this.drawRuler();
    this.drawPlayhead();
  }

  drawRuler() {
    const { context: c } = this;
    c.fillStyle = this.color("paper");
    c.fillRect(0, 0, this.width, ruler);
    if (this.loop) {
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.18;
      c.fillRect(this.x(this.loop.start), 0, (this.loop.end - this.loop.start) * this.pixelsPerSecond, this.height);
      c.globalAlpha = 1;
    }
    c.strokeStyle = this.color("rule");
    c.beginPath();
    c.moveTo(0, ruler - 0.5);
    c.lineTo(this.width, ruler - 0.5);
    c.stroke();
    const steps = [1 / this.scene.fps, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60, 300, 600];
    const step = steps.find((s) => s * this.pixelsPerSecond >= (s < 0.1 ? 34 : 56)) ?? 1200;
    c.font = '11px "Mono"';
    c.fillStyle = this.color("soft");
    c.strokeStyle = this.color("soft");
    c.textBaseline = "middle";
    c.beginPath();
    const first = Math.max(0, Math.floor(this.scroll / step));
    for (let n = first; n * step < this.scroll + this.visibleSeconds; n++) {
      const t = n * step;
      if (t > this.scene.duration + 1e-6) break;
      const x = Math.round(this.x(t)) + 0.5;
      if (x < gutter) continue;
      c.moveTo(x, ruler - 7);
      c.lineTo(x, ruler);
      c.fillText(step < 0.1 ? `f${n}` : clock(t, step < 1), x + 3, ruler / 2 - 1);
    }
    c.stroke();
    c.fillStyle = this.color("paper");
    c.fillRect(0, 0, gutter, ruler);
    c.fillStyle = this.color("soft");
    c.font = '600 11px "Figtree"';
    c.fillText("Score", 12, ruler / 2);
  }

  drawStaff(member, y) {
    const { context: c } = this;
    const ink = this.ink(member);
    c.strokeStyle = this.color("rule");
    c.lineWidth = 1;
    c.beginPath();
    // Five rules, as on music paper.
    for (let i = 0; i < 5; i++) {
      const ry = Math.round(y + 13 + i * 8) + 0.5;
      c.moveTo(gutter, ry);
      c.lineTo(this.width, ry);
    }
    c.stroke();
    c.save();
    c.beginPath();
    c.rect(gutter, y, this.width - gutter, staffHeight);
    c.clip();
    for (const line of this.scene.lines) if (line.member === member.id && line.start != null) this.drawLine(line, y, ink);
    c.restore();
    c.fillStyle = this.color("sheet");
    c.fillRect(0, y, gutter, staffHeight);
    c.fillStyle = ink;
    c.fillRect(gutter - 5, y + 8, 3, voiceLane + mouthLane - 8);
    c.font = '700 14px "Bricolage"';
    c.textBaseline = "middle";
    c.fillText(fitText(c, member.roleName, gutter - 24), 12, y + 18);
    c.font = '11px "Figtree"';
    c.fillStyle = this.color("soft");
    c.fillText("Voice", 12, y + 38);
    c.fillText("Mouth", 12, y + voiceLane + mouthLane / 2 + 2);
  }

  drawLine(line, y, ink) {
    const { context: c } = this;
    const x0 = this.x(line.start);
    const x1 = this.x(line.start + line.duration);
    if (x1 < gutter || x0 > this.width) return;
    const middle = y + 29;
    c.fillStyle = ink;
    c.globalAlpha = this.selected === line.id ? 0.16 : 0.07;
    c.fillRect(x0, y + 3, x1 - x0, voiceLane + mouthLane);
    c.globalAlpha = 1;
    if (this.selected === line.id) {
      c.strokeStyle = ink;
      c.lineWidth = 1.5;
      c.strokeRect(x0 + 0.5, y + 3.5, x1 - x0 - 1, voiceLane + mouthLane - 1);
    }
    if (line.bytes) {
      c.globalAlpha = 0.4;
      c.beginPath();
      const from = Math.max(gutter, x0);
      const to = Math.min(this.width, x1);
      const level = (x) => {
        const at = ((x - x0) / this.pixelsPerSecond) * 50;
        let best = 0;
        const end = Math.min(line.bytes.length - 1, Math.floor(at + 50 / this.pixelsPerSecond));
        for (let i = Math.max(0, Math.floor(at)); i <= end; i++) best = Math.max(best, line.bytes[i]);
        return (best / 100) ** 2 * 19;
      };
      c.moveTo(from, middle);
      for (let x = from; x <= to; x++) c.lineTo(x, middle - level(x));
      for (let x = to; x >= from; x--) c.lineTo(x, middle + level(x));
      c.fill();
      c.globalAlpha = 1;
    }
    if (line.listening) {
      c.font = 'italic 12px "Figtree"';
      c.fillStyle = this.color("soft");
      c.fillText("listening…", Math.max(gutter, x0) + 6, middle);
    }
    const labels = line.words?.length ? line.words : (line.phones ?? []);
    const phoneRow = this.pixelsPerSecond > 260 && line.words?.length ? line.phones : [];
    this.labels(labels, x0, y + 10, '12px "Figtree"', this.color("ink"));
    this.labels(phoneRow, x0, y + voiceLane - 3, '10px "Mono"', this.color("soft"));
    this.drawMouths(line, x0, y + voiceLane);
  }

  labels(items, x0, y, font, color) {
    const { context: c } = this;
    c.font = font;
    c.textBaseline = "middle";
    let free = -Infinity;
    for (const [i, [text, start, end, confidence]] of items.entries()) {
      const x = x0 + start * this.pixelsPerSecond;
      const w = (end - start) * this.pixelsPerSecond;
      if (x + w < gutter || x > this.width) continue;
      if (confidence < 0.5) this.hatch(x, y - 7, w, 14);
      const size = c.measureText(text).width;
      // A word narrower than its text runs on into the free space after it; where there is none it is cut to its own width.
      if (x < free - 14 || this.pixelsPerSecond < 24) continue;
      const left = Math.max(x, free);
      const next = items[i + 1];
      const room = next ? x0 + next[1] * this.pixelsPerSecond - left : Infinity;
      const shown = size <= room + 10 ? text : fitText(c, text, Math.max(w, room));
      if (shown.length < Math.min(2, text.length)) continue;
      c.fillStyle = color;
      c.fillText(shown, left + 2, y);
      free = left + c.measureText(shown).width + 4;
    }
  }

  hatch(x, y, w, h) {
    const { context: c } = this;
    c.save();
    c.beginPath();
    c.rect(x, y, w, h);
    c.clip();
    c.strokeStyle = this.color("amber");
    c.globalAlpha = 0.6;
    c.lineWidth = 1;
    c.beginPath();
    for (let i = x - h; i < x + w; i += 5) {
      c.moveTo(i, y + h);
      c.lineTo(i + h, y);
    }
    c.stroke();
    c.restore();
  }

  drawMouths(line, x0, y) {
    const { context: c } = this;
    let free = -Infinity;
    for (const [key, start, end, strength] of line.cues ?? []) {
      const left = x0 + start * this.pixelsPerSecond;
      const right = x0 + end * this.pixelsPerSecond;
      if (right < gutter || left > this.width) continue;
      // A tick for every cue, as high as it is strong; a mouth where there is room for one.
      c.fillStyle = this.color("soft");
      c.fillRect(left, y + mouthLane - 2, Math.max(1, right - left - 1), -1 - strength * 2);
      const picture = this.pictures.get(key);
      const middle = (left + right) / 2;
      const size = 24;
      if (!picture || middle - size / 2 < free) continue;
      free = middle + size / 2 + 1;
      const scale = Math.min(size / picture.width, (mouthLane - 8) / picture.height);
      c.save();
      c.translate(middle, y + 13 - picture.height * scale * 0.12);
      c.scale(scale, scale);
      for (const s of picture.paths) {
        if (!s.path) continue;
        c.save();
        if (s.clip >= 0) {
          const clip = picture.paths[s.clip].path;
          if (!clip) {
            c.restore();
            continue;
          }
          c.clip(clip);
        }
        if (s.fill) {
          c.fillStyle = s.fill;
          c.fill(s.path);
        }
        if (s.stroke) {
          c.strokeStyle = s.stroke === "#1E2430" ? this.color("ink") : s.stroke;
          c.lineWidth = Math.max(s.width, 1 / scale);
          c.lineCap = c.lineJoin = "round";
          c.stroke(s.path);
        }
        c.restore();
      }
      c.restore();
    }
  }

  drawPlayhead() {
    const { context: c } = this;
    const x = Math.round(this.x(this.time)) + 0.5;
    if (x < gutter) return;
    c.strokeStyle = c.fillStyle = this.color("thread");
    c.lineWidth = 1.5;
    c.beginPath();
    c.moveTo(x, 8);
    c.lineTo(x, this.height);
    c.stroke();
    c.beginPath();
    c.arc(x, 8, 4.5, 0, 7);
    c.fill();
  }

  ink(member) {
    // By night the dark inks are lightened, so that they stay readable.
    return document.documentElement.dataset.theme === "night" ? `color-mix(in srgb, ${member.ink} 45%, white)` : member.ink;
  }
}

function fitText(c, text, width) {
  if (c.measureText(text).width <= width) return text;
  while (text.length > 1 && c.measureText(`${text}…`).width > width) text = text.slice(0, -1);
  return `${text}…`;
}

export function clock(t, tenths = false) {
  const m = Math.floor(t / 60);
  const s = t - m * 60;
  return tenths ? `${m}:${s.toFixed(1).padStart(4, "0")}` : `${m}:${String(Math.round(s)).padStart(2, "0")}`;
}
