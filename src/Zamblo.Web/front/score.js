// The score: ruler, and a staff per cast member with its voice (level, words, phones) and its lip strip.
const gutter = 116;
const ruler = 26;
const staffGap = 10;
const silentStaff = 46;
// The handle of a line, and the lanes of moods and gestures.
const handle = 7;
const lane = 17;
// From top to bottom.
export const laneNames = { mood: "Mood", look: "Eyes", gesture: "Gesture", walk: "Stage" };
// So near to an edge, in pixels, a pointer takes the edge.
const edge = 5;

export class Score {
  constructor(canvas) {
    this.canvas = canvas;
    this.front = canvas.getContext("2d");
    // All but the playhead is drawn here, and only when it changes: while the voice plays, one picture is copied.
    this.sheet = new OffscreenCanvas(1, 1);
    this.context = this.sheet.getContext("2d");
    this.scroll = 0;
    this.pixelsPerSecond = 90;
    this.scene = null;
    this.time = 0;
    this.loop = null;
    this.selected = null;
    // What is selected within a line: cues by their number, a stretch of time, a word.
    this.selection = { line: null, cues: new Set(), range: null, word: -1 };
    this.clip = null;
    // Several clips that are picked together.
    this.clips = new Set();
    // Lanes that are folded away, and which clips are shown: null for all.
    this.folded = new Set();
    this.filter = null;
    this.pictures = new Map();
  }

  // Staves from top to bottom. Whoever says nothing takes little room; the others share the rest.
  get staves() {
    const members = this.scene?.members ?? [];
    const speaks = (m) => this.scene.lines.some((l) => l.member === m.id && l.start !== null);
    const silent = members.filter((m) => !speaks(m)).length;
    // Lanes are there for whoever has something on them, unless they are folded away.
    const lanes = (m) =>
      Object.keys(laneNames).filter((kind) => !this.folded.has(kind) && this.scene.clips.some((c) => c.member === m.id && c.kind === kind && this.shows(c)));
    const taken = members.reduce((sum, m) => sum + lanes(m).length * lane, 0) + this.soundLanes.length * lane;
    const room = (this.canvas.parentElement.clientHeight - ruler - taken - silent * silentStaff) / Math.max(1, members.length - silent);
    const full = Math.round(Math.min(150, Math.max(84, room)));
    let y = ruler;
    return members.map((member) => {
      const height = speaks(member) ? full : silentStaff;
      const voice = speaks(member) ? Math.round((full - staffGap) * 0.56) : silentStaff - staffGap;
      const mouth = speaks(member) ? full - staffGap - voice : 0;
      const staff = { member, y, height: height + lanes(member).length * lane, voice, mouth, lanes: {} };
      lanes(member).forEach((kind, i) => (staff.lanes[kind] = voice + mouth + 4 + i * lane));
      y += staff.height;
      return staff;
    });
  }

  // What sounds beside the voices lies under the staves, a lane each.
  get soundLanes() {
    return (this.scene?.sounds ?? []).map((sound) => {
      const length = sound.length ?? (sound.loops ? Infinity : sound.duration - sound.from);
      return { ...sound, end: Math.min(this.scene.duration, sound.start + length) };
    });
  }

  // Draws when something is to be seen that was not there before.
  update(time, loop, selected) {
    this.time = time;
    this.loop = loop;
    this.selected = selected;
    const box = this.canvas.parentElement;
    const state = [
      loop?.start,
      loop?.end,
      selected,
      this.scroll,
      this.pixelsPerSecond,
      box.clientWidth,
      box.clientHeight,
      devicePixelRatio,
      document.documentElement.dataset.theme,
      this.selection.line,
      [...this.selection.cues].join("."),
      this.selection.range?.start,
      this.selection.range?.end,
      this.selection.word,
      this.drag?.dx,
      this.drag?.edge,
      this.clip,
      [...this.clips].join("."),
      [...this.folded].join("."),
      this.filter,
    ].join();
    if (state === this.shown && time === this.shownTime) return;
    if (state !== this.shown) this.draw();
    this.shown = state;
    this.shownTime = time;
    this.front.setTransform(1, 0, 0, 1, 0, 0);
    this.front.drawImage(this.sheet, 0, 0);
    if (this.scene) this.drawPlayhead();
  }

  // Whether a clip is among those that are shown: all, one sort or mood, one member's, or what hands have made.
  shows(clip) {
    return !this.filter || (this.filter === "own" ? clip.isOwn : [clip.kind, clip.kind === "mood" ? clip.name : "", clip.member].includes(this.filter));
  }

  setScene(scene) {
    this.scene = scene;
    this.shown = null;
    for (const [key, p] of Object.entries(scene.mouths))
      if (!this.pictures.has(key)) this.pictures.set(key, { ...p, paths: p.paths.map((s) => ({ ...s, path: s.d ? new Path2D(s.d) : null })) });
    for (const line of scene.lines) {
      if (!line.levels || line.bytes) continue;
      const text = atob(line.levels);
      line.bytes = Uint8Array.from(text, (c) => c.charCodeAt(0));
      if (line.pitch) line.tones = Uint8Array.from(atob(line.pitch), (c) => c.charCodeAt(0));
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

  // What lies at a point: a line, and a word, phone or cue of it, with the edge that is near.
  hit(x, y) {
    if (!this.scene || x < gutter || y < ruler) return null;
    const { staves } = this;
    const staff = staves.find((s) => y >= s.y && y < s.y + s.height);
    const t = this.timeAt(x);
    if (!staff) {
      const sound = this.soundLanes[Math.floor((y - staves.reduce((sum, s) => sum + s.height, ruler)) / lane)];
      return sound && t >= sound.start && t < sound.end ? { sound, time: t } : null;
    }
    const { member } = staff;
    const within = y - staff.y;
    for (const [kind, top] of Object.entries(staff.lanes)) {
      if (within < top || within >= top + lane) continue;
      // Of those that overlap the one that started last lies on top.
      const clip = this.scene.clips
        .filter((c) => c.member === member.id && c.kind === kind && this.shows(c) && t >= c.start && t < c.end)
        .sort((a, b) => b.start - a.start)[0];
      if (!clip) return { member };
      const close = (s) => Math.abs(s - t) * this.pixelsPerSecond <= edge;
      return { member, clip, time: t, edge: close(clip.start) ? "Start" : close(clip.end) ? "End" : "" };
    }
    const line = this.scene.lines.find((l) => l.member === member.id && l.start != null && t >= l.start && t < l.start + l.duration);
    if (!line) return { member };
    const local = t - line.start;
    const close = (s) => Math.abs(s - t) * this.pixelsPerSecond <= edge;
    if (within < handle + 3) return { member, line, lane: "line", edge: close(line.start) ? "start" : close(line.start + line.duration) ? "end" : "", time: t };
    const onMouth = within > staff.voice;
    const near = (s) => Math.abs(s - local) * this.pixelsPerSecond <= edge;
    if (onMouth) {
      const index = (line.cues ?? []).findIndex((c) => local >= c[1] && local < c[2]);
      const item = index >= 0 ? line.cues[index] : null;
      const wide = item && (item[2] - item[1]) * this.pixelsPerSecond > 3 * edge;
      return { member, line, lane: "mouth", index, item, edge: wide ? (near(item[1]) ? "Start" : near(item[2]) ? "End" : "") : "", local };
    }
    const onPhones = this.showsPhones(line) && within > staff.voice - 14;
    const list = (onPhones ? line.phones : line.words?.length ? line.words : line.phones) ?? [];
    const index = list.findIndex((w) => local >= w[1] && local < w[2]);
    let boundary = null;
    if (this.pixelsPerSecond > 70)
      list.forEach((w, i) => {
        if (near(w[1])) boundary = { index: i, at: "start", time: w[1], isPhone: onPhones };
        else if (near(w[2]) && !boundary) boundary = { index: i, at: "end", time: w[2], isPhone: onPhones };
      });
    return {
      member,
      line,
      lane: "voice",
      index,
      item: index >= 0 ? list[index] : null,
      boundary: line.words?.length ? boundary : null,
      isPhone: onPhones,
      local,
    };
  }

  showsPhones(line) {
    return this.pixelsPerSecond > 260 && line.words?.length > 0;
  }

  draw() {
    const { canvas, context: c } = this;
    const ratio = devicePixelRatio;
    const width = canvas.clientWidth;
    const { staves } = this;
    const height = Math.max(canvas.parentElement.clientHeight, staves.reduce((sum, s) => sum + s.height, ruler) + this.soundLanes.length * lane);
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      canvas.width = Math.round(width * ratio);
      canvas.height = Math.round(height * ratio);
      canvas.style.height = `${height}px`;
      this.sheet.width = canvas.width;
      this.sheet.height = canvas.height;
    }
    this.width = width;
    this.height = height;
    const style = getComputedStyle(document.documentElement);
    const colors = new Map();
    this.color = (name) => colors.get(name) ?? colors.set(name, style.getPropertyValue(`--${name}`).trim()).get(name);
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = this.color("sheet");
    c.fillRect(0, 0, width, height);
    if (!this.scene) return;
    for (const staff of staves) this.drawStaff(staff);
    const under = staves.reduce((sum, s) => sum + s.height, ruler);
    this.soundLanes.forEach((sound, i) => this.drawSound(sound, under + i * lane));
    this.drawRuler();
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

  drawStaff(staff) {
    const { context: c } = this;
    const { member, y } = staff;
    const ink = this.ink(member);
    c.strokeStyle = this.color("rule");
    c.lineWidth = 1;
    c.beginPath();
    // Five rules, as on music paper.
    for (let i = 0; i < 5; i++) {
      const ry = Math.round(y + 13 + i * ((staff.voice - 18) / 4)) + 0.5;
      c.moveTo(gutter, ry);
      c.lineTo(this.width, ry);
    }
    c.stroke();
    c.save();
    c.beginPath();
    c.rect(gutter, y, this.width - gutter, staff.height);
    c.clip();
    for (const line of this.scene.lines) if (line.member === member.id && line.start != null) this.drawLine(line, staff, ink);
    for (const [kind, top] of Object.entries(staff.lanes))
      for (const clip of this.scene.clips) if (clip.member === member.id && clip.kind === kind && this.shows(clip)) this.drawClip(clip, y + top, ink);
    c.restore();
    c.fillStyle = this.color("sheet");
    c.fillRect(0, y, gutter, staff.height);
    c.fillStyle = ink;
    c.fillRect(gutter - 5, y + 8, 3, staff.voice + staff.mouth - 8);
    c.font = '700 14px "Bricolage"';
    c.textBaseline = "middle";
    c.fillText(fitText(c, member.roleName, gutter - 24), 12, y + 18);
    c.font = '11px "Figtree"';
    c.fillStyle = this.color("soft");
    for (const [kind, top] of Object.entries(staff.lanes)) c.fillText(laneNames[kind], 12, y + top + lane / 2);
    if (!staff.mouth) return;
    c.fillText("Voice", 12, y + 38);
    c.fillText("Mouth", 12, y + staff.voice + staff.mouth / 2 + 2);
  }

  drawSound(sound, y) {
    const { context: c } = this;
    const dx = this.drag?.acting === "sound" && this.drag.sound.id === sound.id ? this.drag.dx : 0;
    const x0 = Math.max(gutter, this.x(sound.start + dx));
    const x1 = Math.min(this.width, this.x(sound.end + dx));
    c.font = '11px "Figtree"';
    c.textBaseline = "middle";
    c.fillStyle = this.color("soft");
    c.fillText(fitText(c, sound.kind, gutter - 24), 12, y + lane / 2);
    if (x1 <= x0) return;
    c.beginPath();
    c.roundRect(x0, y + 1, Math.max(3, x1 - x0), lane - 4, 3);
    c.globalAlpha = 0.18;
    c.fill();
    c.globalAlpha = 1;
    c.lineWidth = 1;
    c.strokeStyle = this.color("soft");
    c.setLineDash(sound.loops ? [6, 3] : []);
    c.stroke();
    c.setLineDash([]);
    c.fillStyle = this.color("ink");
    if (x1 - x0 > 30) c.fillText(fitText(c, sound.name, x1 - x0 - 12), x0 + 6, y + lane / 2);
  }

  // A mood is a band that swells and fades; a gesture a box with a mark where its stroke falls.
  drawClip(clip, y, ink) {
    const { context: c } = this;
    const drag = this.drag?.acting === "clip" && this.drag.clip.id === clip.id ? this.drag : null;
    const x0 = this.x(clip.start + (drag && drag.edge !== "End" ? drag.dx : 0));
    const x1 = this.x(clip.end + (drag && drag.edge !== "Start" ? drag.dx : 0));
    if (x1 < gutter || x0 > this.width) return;
    const height = lane - 3;
    const isPicked = this.clip === clip.id || this.clips.has(clip.id);
    c.beginPath();
    if (clip.kind === "mood") {
      const slope = Math.min((clip.ease / 2) * this.pixelsPerSecond, (x1 - x0) / 2);
      c.moveTo(x0, y + height);
      c.lineTo(x0 + slope, y);
      c.lineTo(x1 - slope, y);
      c.lineTo(x1, y + height);
      c.closePath();
    } else if (clip.kind === "walk") {
      // An arrow to where it leads.
      const tip = Math.min(6, (x1 - x0) / 3);
      c.moveTo(x0, y + 2);
      c.lineTo(x1 - tip, y + 2);
      c.lineTo(x1, y + height / 2);
      c.lineTo(x1 - tip, y + height - 2);
      c.lineTo(x0, y + height - 2);
      c.closePath();
    } else c.roundRect(x0, y, Math.max(3, x1 - x0), height, 4);
    c.fillStyle = ink;
    c.globalAlpha = clip.kind === "mood" ? 0.1 + 0.3 * clip.strength : 0.12;
    c.fill();
    c.globalAlpha = 1;
    c.lineWidth = isPicked ? 2 : 1;
    c.strokeStyle = isPicked ? this.color("thread") : ink;
    c.stroke();
    c.font = `${clip.kind === "mood" ? "italic " : ""}11px "Figtree"`;
    c.fillStyle = this.color("ink");
    c.textBaseline = "middle";
    const left = Math.max(x0, gutter) + 7;
    const text = fitText(c, clip.title, x1 - left - 4);
    if (text.length > 1 || clip.title.length === 1) c.fillText(text, left, y + height / 2 + 0.5);
  }

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
    c.globalAlpha = this.selected === line.id ? 0.16 : 0.07;
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
    // An edge that is dragged: what is cut off, or comes in.
    if (drag?.side) {
      const place = drag.side === "start" ? x0 : x1;
      const by = drag.dx * this.pixelsPerSecond;
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.25;
      c.fillRect(Math.min(place, place + by), y + 3, Math.abs(by), staff.voice + staff.mouth);
      c.fillStyle = ink;
      c.globalAlpha = 1;
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
    for (const mark of line.marks ?? []) this.drawMark(mark, x0, staff);
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

  // A stretch that somebody marked as voice or not.
  drawMark(mark, x0, { y, voice }) {
    const { context: c } = this;
    const left = x0 + mark.start * this.pixelsPerSecond;
    const width = (mark.end - mark.start) * this.pixelsPerSecond;
    c.fillStyle = this.color(mark.isVoice ? "leaf" : "soft");
    c.globalAlpha = 0.16;
    c.fillRect(left, y + 18, width, voice - 20);
    c.globalAlpha = 1;
    c.font = 'italic 11px "Figtree"';
    c.fillStyle = this.color(mark.isVoice ? "leaf" : "soft");
    const text = fitText(c, mark.isVoice ? "voice" : "not voice", width - 4);
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
      if (shown.length < Math.min(4, text.length)) continue;
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
    const c = this.front;
    c.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
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
