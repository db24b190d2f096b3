// How a line looks on its staff: sound, pitch, words, phones and the strip of mouths.
import { boxOf } from "./stage.js";
import { gutter, handle, ScoreLayout } from "./score-layout.js";
import { unmarked } from "./sounds-heard.js";
import { goingOver, meets } from "./turns.js";

export class ScoreLines extends ScoreLayout {
  drawLine(line, staff, ink) {
    const { context: c } = this;
    const { y } = staff;
    const drag = this.drag?.acting === "line" && this.drag.line === line.id ? this.drag : null;
    const moved = drag && !drag.side ? drag.dx : 0;
    const x0 = this.x(line.start + moved);
    const x1 = this.x(line.start + moved + line.duration);
    if (x1 < gutter || x0 > this.width) return;
    const middle = y + 21 + (staff.voice - 28) / 2;
    c.fillStyle = ink;
    c.globalAlpha = this.selected === line.id ? 0.18 : line.isOdd ? 0.06 : 0.12;
    c.fillRect(x0, y + 3, x1 - x0, staff.voice + staff.mouth);
    c.globalAlpha = 1;
    if (this.selected === line.id) {
      c.strokeStyle = ink;
      c.lineWidth = 1.5;
      c.strokeRect(x0 + 0.5, y + 3.5, x1 - x0 - 1, staff.voice + staff.mouth - 1);
    }
    // The handle, by which the whole line is moved.
    c.fillStyle = ink;
    c.globalAlpha = this.selected === line.id ? 0.9 : 0.45;
    c.fillRect(x0, y + 3, x1 - x0, handle - 3);
    c.globalAlpha = 1;
    if (staff.isSlim) return;
    // An edge that is dragged: what is cut off, or comes in.
    if (drag?.side) {
      const place = drag.side === "start" ? x0 : x1;
      const by = drag.dx * this.pixelsPerSecond;
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.25;
      c.fillRect(Math.min(place, place + by), y + 3, Math.abs(by), staff.voice + staff.mouth);
      c.globalAlpha = 1;
      const over = drag.alone ? null : goingOver(this.scene, line, drag.side, drag.dx);
      if (over) this.drawNote(over.text, place + by, y + staff.voice);
      c.fillStyle = ink;
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
        return ((best / 100) ** 1.5 * (staff.voice - 22)) / 2;
      };
      c.moveTo(from, middle);
      for (let x = from; x <= to; x++) c.lineTo(x, middle - level(x));
      for (let x = to; x >= from; x--) c.lineTo(x, middle + level(x));
      c.fill();
      c.globalAlpha = 1;
    }
    if (line.tones) this.drawPitch(line, x0, y, staff);
    if (line.listening) {
      c.font = 'italic 12px "Figtree"';
      c.fillStyle = this.color("soft");
      c.fillText("listening…", Math.max(gutter, x0) + 6, middle);
    }
    const labels = line.words?.length ? line.words : (line.phones ?? []);
    const phoneRow = this.showsPhones(line) ? line.phones : [];
    const own = this.selection.line === line.id ? this.selection : null;
    for (const mark of line.marks ?? [])
      this.drawStretch(mark, mark.isVoice ? "voice" : (mark.sound ?? "not voice"), mark.isVoice ? "leaf" : "soft", x0, staff);
    for (const [name, start, end] of unmarked(line)) this.drawStretch({ start, end }, name, "thread", x0, staff);
    if (own?.word >= 0 && line.words?.[own.word]) {
      const [, start, end] = line.words[own.word];
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.14;
      c.fillRect(x0 + start * this.pixelsPerSecond, y + 3, (end - start) * this.pixelsPerSecond, staff.voice - 3);
      c.globalAlpha = 1;
    }
    if (own?.range) {
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.2;
      const left = x0 + own.range.start * this.pixelsPerSecond;
      c.fillRect(left, y + 3, (own.range.end - own.range.start) * this.pixelsPerSecond, staff.voice + staff.mouth);
      c.globalAlpha = 1;
    }
    this.drawState(line, Math.max(x0, gutter), x1, y + staff.voice - 2);
    this.labels(labels, x0, y + 15, '12px "Figtree"', this.color("ink"));
    this.labels(phoneRow, x0, y + staff.voice - 4, '10px "Mono"', this.color("soft"));
    if (this.pixelsPerSecond > 70) this.ticks(labels, x0, y + 9, 12);
    this.ticks(phoneRow, x0, y + staff.voice - 10, 11);
    this.drawMouths(line, x0, y + staff.voice, staff.mouth, own);
    if (this.drag?.pin && this.drag.line === line.id) {
      const x = Math.round(x0 + (this.drag.pin.time + this.drag.dx) * this.pixelsPerSecond) + 0.5;
      c.strokeStyle = this.color("thread");
      c.setLineDash([3, 2]);
      c.beginPath();
      c.moveTo(x, y + 3);
      c.lineTo(x, y + staff.voice);
      c.stroke();
      c.setLineDash([]);
    }
  }

  // Where two turns of a recording meet, grips on their handles and a line through both say that their boundary can be moved.
  drawMeetings() {
    const { context: c } = this;
    for (const line of this.scene.lines) {
      const end = line.start + line.duration;
      const at = Math.round(this.x(end));
      if (line.start == null || at < gutter || at > this.width) continue;
      const other = meets(this.scene, line, "end");
      if (!other || Math.abs(other.start - end) > 0.05) continue;
      const [from, to] = [line, other].map((l) => this.staves.find((s) => s.member.id === l.member));
      if (!from || !to) continue;
      c.strokeStyle = this.ink(from.member);
      c.lineWidth = 1;
      c.globalAlpha = 0.6;
      c.setLineDash([2, 3]);
      c.beginPath();
      c.moveTo(at + 0.5, Math.min(from.y, to.y) + handle);
      c.lineTo(at + 0.5, Math.max(from.y, to.y) + handle);
      c.stroke();
      c.setLineDash([]);
      c.globalAlpha = 1;
      for (const { y, member } of [from, to]) {
        c.fillStyle = this.ink(member);
        c.beginPath();
        c.roundRect(at - 5, y, 11, handle + 4, 3);
        c.fill();
        c.fillStyle = this.color("sheet");
        for (const by of [-2, 2]) c.fillRect(at + by, y + 3, 1, handle - 2);
      }
    }
  }

  // What a drag would do, beside it.
  drawNote(text, x, y) {
    const { context: c } = this;
    c.font = '12px "Figtree"';
    c.textBaseline = "middle";
    const width = c.measureText(text).width + 10;
    const left = Math.max(gutter, Math.min(this.width - width, x + 6));
    c.fillStyle = this.color("ink");
    c.fillRect(left, y - 9, width, 18);
    c.fillStyle = this.color("sheet");
    c.fillText(text, left + 5, y);
  }

  // What is not to be heard or seen of a line, in words at its foot.
  drawState(line, x0, x1, y) {
    const { context: c } = this;
    const unsure = (line.words ?? []).filter((w) => w[3] < 0.5).length;
    const says = [
      line.isStale && "stale",
      line.isMute && "seen, not heard",
      line.isOffStage && "off stage",
      line.also?.length && "in unison",
      line.take?.guide && "guided",
      unsure > 0 && unsure >= line.words.length / 3 && "unsure",
    ].filter(Boolean);
    if (!says.length || x1 - x0 < 40) return;
    c.font = 'italic 10px "Figtree"';
    c.textBaseline = "middle";
    const text = fitText(c, says.join(", "), x1 - x0 - 6);
    c.fillStyle = this.color("sheet");
    c.globalAlpha = 0.8;
    c.fillRect(x0 + 1, y - 6, c.measureText(text).width + 5, 12);
    c.globalAlpha = 1;
    c.fillStyle = this.color(line.isStale ? "amber" : "soft");
    c.fillText(text, x0 + 3, y);
  }

  // Pitch as a thin line over the waveform, stressed syllables as dots on it, an arrow where a phrase ends high: why a head nods there.
  drawPitch(line, x0, y, staff) {
    const { context: c } = this;
    const low = y + staff.voice - 4;
    const room = staff.voice - 28;
    const at = (tone) => low - room * Math.max(0, Math.min(1, 0.5 + (tone - 128) / 6 / 24));
    c.strokeStyle = this.color("thread");
    c.lineWidth = 1;
    c.globalAlpha = 0.75;
    c.beginPath();
    let last = 0;
    for (let i = 0; i < line.tones.length; i++) {
      const x = x0 + ((i + 0.5) / 50) * this.pixelsPerSecond;
      if (x < gutter - 4 || x > this.width + 4) {
        last = 0;
        continue;
      }
      const tone = line.tones[i];
      if (tone && last) c.lineTo(x, at(tone));
      else if (tone) c.moveTo(x, at(tone));
      last = tone;
    }
    c.stroke();
    c.fillStyle = this.color("thread");
    for (const [time, size] of line.accents ?? []) {
      const x = x0 + time * this.pixelsPerSecond;
      if (x < gutter || x > this.width) continue;
      const tone = line.tones[Math.floor(time * 50)] || 128;
      c.beginPath();
      c.arc(x, at(tone), 1 + 2 * size, 0, 7);
      c.fill();
    }
    for (const time of line.rises ?? []) {
      const x = x0 + time * this.pixelsPerSecond;
      c.beginPath();
      c.moveTo(x, low - room - 2);
      c.lineTo(x + 4, low - room + 5);
      c.lineTo(x - 4, low - room + 5);
      c.fill();
    }
    c.globalAlpha = 1;
  }

  // Boundaries that can be taken with the pointer.
  ticks(items, x0, y, height) {
    const { context: c } = this;
    c.strokeStyle = this.color("soft");
    c.globalAlpha = 0.5;
    c.lineWidth = 1;
    c.beginPath();
    for (const [, start, end] of items)
      for (const t of [start, end]) {
        const x = Math.round(x0 + t * this.pixelsPerSecond) + 0.5;
        if (x < gutter || x > this.width) continue;
        c.moveTo(x, y);
        c.lineTo(x, y + height);
      }
    c.stroke();
    c.globalAlpha = 1;
  }

  // A stretch that somebody marked as voice or not, or in which somebody laughs or the like.
  drawStretch({ start, end }, name, color, x0, { y, voice }) {
    const { context: c } = this;
    const left = x0 + start * this.pixelsPerSecond;
    const width = (end - start) * this.pixelsPerSecond;
    c.fillStyle = this.color(color);
    c.globalAlpha = 0.16;
    c.fillRect(left, y + 18, width, voice - 20);
    c.globalAlpha = 1;
    c.font = 'italic 11px "Figtree"';
    c.fillStyle = this.color(color);
    const text = fitText(c, name, width - 4);
    if (width > 24) c.fillText(text, Math.max(left, gutter) + 3, y + voice - 18);
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
      if (shown.length < Math.min(4, text.length)) {
        // No room for the word: a dot says that there is one; nearer, or under the pointer, it is read.
        c.fillStyle = this.color("soft");
        if (x + w / 2 > free + 2) c.fillRect(x + w / 2 - 1, y - 1, 2, 2);
        continue;
      }
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

  drawMouths(line, x0, y, lane, own) {
    const { context: c } = this;
    if (lane < 14) return;
    const largest = Math.min(44, lane - 12);
    let free = -Infinity;
    for (const [key, start, end, strength, shape, number, touch, confidence] of line.cues ?? []) {
      const isSelected = own?.cues.has(number);
      let from = start;
      let to = end;
      // While it is dragged a cue is shown where it would come to lie.
      if (isSelected && this.drag?.cues) {
        if (this.drag.edge !== "End") from += this.drag.dx;
        if (this.drag.edge !== "Start") to += this.drag.dx;
      }
      const left = x0 + from * this.pixelsPerSecond;
      const right = x0 + to * this.pixelsPerSecond;
      if (right < gutter || left > this.width) continue;
      if (isSelected) {
        c.fillStyle = this.color("thread");
        c.globalAlpha = 0.16;
        c.fillRect(left, y, right - left, lane);
        c.globalAlpha = 1;
        c.strokeStyle = this.color("thread");
        c.lineWidth = 1.5;
        c.strokeRect(left + 0.75, y + 0.75, Math.max(2, right - left - 1.5), lane - 1.5);
      }
      if (confidence < 0.5) this.hatch(left, y, right - left, lane - 4);
      // A bar for every cue, as high as it is strong, coloured where a hand was at work; a mouth where there is room for one.
      c.fillStyle = this.color(touch ? "thread" : "soft");
      const height = shape === "Rest" ? 1 : 1 + strength * 3;
      c.fillRect(left, y + lane - 2 - height, Math.max(1, right - left - 1), height);
      const middle = (left + right) / 2;
      if (touch) {
        c.beginPath();
        c.arc(middle, y + 4, 2.5, 0, 7);
        c.fill();
      }
      const picture = this.pictures.get(key);
      const size = Math.max(20, Math.min(largest, (right - left) * 0.92)) * (0.75 + 0.25 * Math.min(strength, 1.2));
      if (!picture || middle - size / 2 < free) continue;
      free = middle + size / 2 + 1;
      const scale = Math.min(size / picture.width, (lane - 12) / picture.height);
      c.save();
      c.translate(middle, y + (lane - 6) / 2 - picture.height * scale * 0.12);
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
        if (s.image?.naturalWidth) c.drawImage(s.image, ...boxOf(s.d));
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
}

export function fitText(c, text, width) {
  if (c.measureText(text).width <= width) return text;
  while (text.length > 1 && c.measureText(`${text}…`).width > width) text = text.slice(0, -1);
  return `${text}…`;
}
