// How the score is laid out and what lies where: ruler, and a staff per cast member with its voice (level, words, phones) and its lip strip.
import { ShotPictures } from "./score-pictures.js";

export const gutter = 116;
export const ruler = 26;
export const staffGap = 10;
export const silentStaff = 36;
// A staff that is folded: who, and where they speak.
export const foldedStaff = 24;
// The least that a voice, and a strip of mouths, are still read at.
const leastVoice = 34;
const leastMouth = 26;
// The handle of a line, and the lanes of moods and gestures.
export const handle = 7;
export const lane = 17;
// The camera's lane while one works with it: then it has pictures of what each shot shows.
const pictured = 46;
// From top to bottom.
export const laneNames = { mood: "Mood", look: "Eyes", gesture: "Gesture", walk: "Stage", hold: "Hands", footage: "Clip" };
// So near to an edge, in pixels, a pointer takes the edge.
export const edge = 5;

export class ScoreLayout {
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
    // Members whose staves are folded away by hand, and the divider of the notes that is open: where room is short, what it does not need folds.
    this.slim = new Set();
    this.needs = "Face";
    // Whether all of the scene is in sight because somebody wanted it so: it stays so when the scene grows.
    this.isFitted = true;
    this.pictures = new Map();
    this.shotPictures = new ShotPictures();
  }

  // Staves from top to bottom. Whoever says nothing, or is folded, takes little room; the others share the rest.
  get staves() {
    const members = this.scene?.members ?? [];
    const speaks = (m) => this.scene.lines.some((l) => l.member === m.id && l.start !== null);
    const low = (m) => (this.slim.has(m.id) ? foldedStaff : speaks(m) ? 0 : silentStaff);
    const open = members.filter((m) => !low(m)).length;
    // Lanes are there for whoever has something on them, unless they are folded away.
    const all = (m) =>
      this.slim.has(m.id)
        ? []
        : Object.keys(laneNames).filter(
            (kind) => !this.folded.has(kind) && this.scene.clips.some((c) => c.member === m.id && c.kind === kind && this.shows(c)),
          );
    const least = members.reduce((sum, m) => sum + low(m), ruler + this.heightUnder);
    const roomWith = (lanes) =>
      (this.canvas.parentElement.clientHeight - least - members.reduce((sum, m) => sum + lanes(m).length * lane, 0)) / Math.max(1, open);
    // Where not all of it fits, lanes fold but for acting, and for the set those of walks and hands; where that is not enough, mouths do but for the face.
    const wanted = (m) => (this.needs === "Acting" ? all(m) : this.needs === "Set" ? all(m).filter((kind) => ["walk", "hold"].includes(kind)) : []);
    const enough = staffGap + leastVoice + leastMouth;
    const lanes = roomWith(all) < enough ? wanted : all;
    const hasMouths = roomWith(lanes) >= enough || this.needs === "Face";
    const full = Math.round(Math.min(150, Math.max(staffGap + leastVoice + (hasMouths ? leastMouth : 0), roomWith(lanes))));
    let y = ruler;
    return members.map((member) => {
      const height = low(member) || full;
      const mouth = low(member) || !hasMouths ? 0 : Math.max(leastMouth, Math.round((full - staffGap) * 0.44));
      const voice = height - (this.slim.has(member.id) ? 4 : staffGap) - mouth;
      const own = lanes(member);
      const staff = { member, y, height: height + own.length * lane, voice, mouth, lanes: {}, isSlim: this.slim.has(member.id) };
      own.forEach((kind, i) => (staff.lanes[kind] = voice + mouth + 4 + i * lane));
      y += staff.height;
      return staff;
    });
  }

  // The camera has a lane of its own under the staves where there is more than one shot.
  get hasShots() {
    return (this.scene?.shots.length ?? 0) > 1;
  }

  // Changes of the light have one where there are any.
  get lights() {
    return (this.scene?.clips ?? []).filter((c) => c.kind === "light").sort((a, b) => a.start - b.start);
  }

  get shotsHeight() {
    return !this.hasShots ? 0 : this.needs === "Camera" ? pictured : lane;
  }

  // What lies under the staves: camera, light, sounds.
  get heightUnder() {
    return this.shotsHeight + ((this.lights.length ? 1 : 0) + this.soundLanes.length) * lane;
  }

  get under() {
    return this.staves.reduce((sum, s) => sum + s.height, ruler);
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
      [...this.slim].join("."),
      this.needs,
      this.filter,
      this.shotPictures.came,
    ].join();
    if (state === this.shown && time === this.shownTime) return;
    if (state !== this.shown) {
      this.draw();
      this.map?.draw(this);
    }
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
      if (!this.pictures.has(key))
        this.pictures.set(key, { ...p, paths: p.paths.map((s) => ({ ...s, path: s.d ? new Path2D(s.d) : null, image: s.d && this.imageOf(s.picture) })) });
    for (const line of scene.lines) {
      if (!line.levels || line.bytes) continue;
      const text = atob(line.levels);
      line.bytes = Uint8Array.from(text, (c) => c.charCodeAt(0));
      if (line.pitch) line.tones = Uint8Array.from(atob(line.pitch), (c) => c.charCodeAt(0));
    }
    // Every second line of a member is a little darker, so that neighbours tell apart.
    const count = new Map();
    for (const line of scene.lines) {
      if (line.start === null) continue;
      count.set(line.member, (count.get(line.member) ?? 0) + 1);
      line.isOdd = count.get(line.member) % 2 === 1;
    }
    if (this.isFitted) this.fit();
  }

  // A mouth that is a picture is seen once it has come.
  imageOf(hash) {
    if (!hash) return null;
    const image = new Image();
    image.onload = () => (this.shown = null);
    image.src = `/api/pictures/${hash}`;
    return image;
  }

  get visibleSeconds() {
    return (this.width - gutter) / this.pixelsPerSecond;
  }

  fit() {
    if (!this.scene) return;
    this.width = this.canvas.clientWidth;
    this.pixelsPerSecond = Math.min(600, Math.max(8, (this.width - gutter - 24) / this.scene.duration));
    this.scroll = 0;
    this.isFitted = true;
  }

  zoom(factor, around = this.time) {
    this.isFitted = false;
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
      const below = y - this.under - this.shotsHeight;
      if (below < 0) return this.hitShot(t);
      let row = Math.floor(below / lane);
      if (this.lights.length && row-- === 0) return this.hitLight(t);
      const sound = this.soundLanes[row];
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
    if (staff.isSlim || within < handle + 3)
      return { member, line, lane: "line", edge: close(line.start) ? "start" : close(line.start + line.duration) ? "end" : "", time: t };
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

  // A shot by hand is a clip like others; one of the camera's is where one goes.
  hitShot(t) {
    const shot = this.scene.shots.find((s) => t >= s.start && t < s.end);
    const clip = shot?.clip && this.scene.clips.find((c) => c.id === shot.clip);
    if (!clip) return shot ? { shot, time: t } : null;
    const close = (s) => Math.abs(s - t) * this.pixelsPerSecond <= edge;
    return { clip, shot, time: t, edge: close(clip.start) ? "Start" : close(clip.end) ? "End" : "" };
  }

  // A change of the light is taken while it comes, and just before and after.
  hitLight(t) {
    const close = (s) => Math.abs(s - t) * this.pixelsPerSecond <= edge;
    const clip = this.lights.findLast((c) => (t >= c.start && t < c.end) || close(c.start) || close(c.end));
    return clip ? { clip, time: t, edge: close(clip.end) && clip.end - clip.start > 0.1 ? "End" : "" } : null;
  }

  showsPhones(line) {
    return this.pixelsPerSecond > 260 && line.words?.length > 0;
  }

  ink(member) {
    // By night the dark inks are lightened, so that they stay readable.
    return document.documentElement.dataset.theme === "night" ? `color-mix(in srgb, ${member.ink} 45%, white)` : member.ink;
  }
}
