import Alpine from "@alpinejs/csp";
import { applyTheme, get, patch, post, remove, toggleTheme, upload } from "./api.js";
import { acting } from "./acting.js";
import { alternates } from "./alternates.js";
import { booths, voiceName } from "./booth.js";
import { cutter } from "./cutter.js";
import { hands, mix } from "./hands.js";
import { performing } from "./perform.js";
import { Player } from "./player.js";
import { scenes } from "./scenes.js";
import { recording } from "./recording.js";
import { clock, Score } from "./score.js";
import { sounds } from "./sounds.js";
import { FrameStore, StagePainter } from "./stage.js";
import { voiceCheck } from "./voices.js";

applyTheme();

// Kept out of the component: Alpine would wrap every frame and sample in proxies.
const player = new Player();
let painter, frames, score;
// The scene as it came, without what Alpine lays around it.
let raw = null;
// Pictures of mouths that have come, by their keys.
const mouths = {};
// Heights of lines of the script that have been seen, in pixels.
const heights = new Map();
let shownFrame = -1;

const tools = {
  player,
  get score() {
    return score;
  },
  // A frame that is looked at once.
  showOnce(answer) {
    const items = [];
    for (const change of answer.frames[0]) items[change[0]] = change;
    painter.draw(items);
  },
  // A frame with some of its shapes changed.
  showOver(frame, changes) {
    const items = frames.get(frame)?.slice();
    if (!items) return;
    for (const change of changes) items[change[0]] = change;
    painter.draw(items);
  },
  showAgain() {
    shownFrame = -1;
  },
};

const dialText = {
  strength: ["Mouth size", 0, 1.5, 0.05],
  dynamics: ["Loud and soft", 0, 1, 0.05],
  density: ["How many shapes", 0, 1, 0.05],
  shortest: ["Shortest shape", 0, 0.2, 0.01, "ms"],
  lead: ["Lead before the sound", 0, 0.08, 0.005, "ms"],
};
const motionText = {
  expressiveness: ["Expressiveness", 0, 2, 0.1],
  turn: ["Turn", 0, 2, 0.1],
  nod: ["Nod", 0, 2, 0.1],
  tilt: ["Tilt", 0, 2, 0.1],
  brows: ["Brows", 0, 2, 0.1],
  blinks: ["Blinks", 0, 2, 0.1],
  gaze: ["Looking about", 0, 2, 0.1],
  camera: ["Looks at the camera", 0, 2, 0.1],
  listening: ["Listening", 0, 2, 0.1],
  body: ["Hands and body", 0, 2, 0.1],
  dangle: ["What dangles", 0, 2, 0.1],
};

// What comes with the hearing of a line; the same as long as the line's number of it is.
const heardKeys = ["source", "draft", "words", "phones", "cues", "levels", "pitch", "accents", "rises"];
const heavy = new Set([...heardKeys, "parts"]);

// Cuts the written text into spoken words (with their times) and what lies between them.
function parts(line) {
  const words = line.words ?? [];
  const text = line.written;
  const result = [];
  let at = 0;
  words.forEach(([said, start, end, confidence], index) => {
    const found = text.toLowerCase().indexOf(said.toLowerCase(), at);
    if (found < 0) return;
    if (found > at) result.push({ key: `t${at}`, text: text.slice(at, found), word: -1 });
    result.push({ key: `w${index}`, text: text.slice(found, found + said.length), word: index, start, end, unsure: confidence < 0.5 });
    at = found + said.length;
  });
  if (at < text.length) result.push({ key: `t${at}`, text: text.slice(at), word: -1 });
  return result;
}

const studio = () => ({
  sceneId: "",
  scene: null,
  ready: false,
  error: "",
  toast: null,
  jobs: [],
  finished: [],
  voices: [],
  time: 0,
  frame: 0,
  playing: false,
  loop: null,
  speed: 1,
  lit: "",
  selectedLine: null,
  selectedMember: null,
  editing: null,
  draft: "",
  // How a voice arrives.
  booth: { open: false, mode: "type", member: "", line: null, text: "", speakers: "one", busy: false, error: "", progress: 0 },
  over: false,
  // The lines of a long script that are on the page, and the room that the others take.
  shown: { from: 0, to: 20, above: 0, below: 0 },

  async init() {
    this.sceneId = this.$root.dataset.scene;
    painter = new StagePainter(this.$refs.stage);
    score = new Score(this.$refs.score);
    // For whoever tests the page: what is shown and heard, as it is.
    window.zamblo = { player, score: () => score, painter: () => painter, frames: () => frames };
    player.onStop = () => (this.playing = false);
    player.onError = (e) => (this.error = e.message);
    this.listen();
    await document.fonts.ready;
    await this.reload(true);
    this.ready = true;
    get("/api/voices")
      .then((v) => {
        this.voices = v;
        for (const line of this.scene?.lines ?? []) line.takeText = this.takeText(line);
      })
      .catch((e) => (this.error = e.message));
    this.pollJobs();
    this.findLeftOvers();
    const tick = () => {
      this.show();
      requestAnimationFrame(tick);
    };
    requestAnimationFrame(tick);
  },

  // ---- loading

  // One at a time: an answer leaves out what the page has, so nothing may change in between.
  reload(fit = false) {
    this.loading = (this.loading ?? Promise.resolve()).then(() => this.load(fit));
    return this.loading;
  },
  async load(fit) {
    try {
      // Lines that are as they were stay the same objects: what hangs on them on the page is not made again. What was heard in them does not travel again.
      const known = new Map((raw?.id === this.sceneId ? raw.lines : []).map((l) => [l.id, l]));
      const hearings = new Map([...known.values()].filter((l) => l.heard).map((l) => [l.heard, l]));
      const seen = raw?.id === this.sceneId ? Math.floor(player.time * raw.fps + 1e-6) : 0;
      const scene = await post(`/api/scenes/${this.sceneId}/state`, { heard: [...hearings.keys()], frame: seen });
      scene.mouths = Object.assign(mouths, scene.mouths);
      const version = `${scene.production.revision}.${scene.heard}`;
      const members = new Map(scene.members.map((m) => [m.id, m]));
      scene.lines = scene.lines.map((line) => {
        const old = known.get(line.id);
        const member = members.get(line.member);
        if (old?.key === line.key && old.role === member.roleName && old.ink === member.ink) return old;
        const hearing = hearings.get(line.heard);
        if (hearing) for (const key of heardKeys) line[key] = hearing[key];
        const isSaid = old && old.heard === line.heard && old.text === line.text && old.draft === line.draft;
        line.role = member.roleName;
        line.ink = member.ink;
        // Words that were only heard stand for the text until somebody writes it.
        line.written = line.text || line.draft || (line.words ?? []).map((w) => w[0]).join(" ");
        line.parts = isSaid ? old.parts : parts(line);
        line.takeText = this.takeText(line);
        line.isDraft = !line.text && line.parts.length > 0;
        if (!isSaid) return line;
        // Only what is another is touched: a line that has moved is not written anew.
        const watched = Alpine.reactive(old);
        for (const [key, value] of Object.entries(line)) if (!heavy.has(key) && JSON.stringify(value) !== JSON.stringify(old[key])) watched[key] = value;
        return old;
      });
      const changed = this.version !== version;
      this.version = version;
      raw = scene;
      this.scene = scene;
      document.title = `${scene.production.title} · Zamblo`;
      score.setScene(scene);
      if (changed) {
        this.bare = null;
        const store = new FrameStore((from, count) => `/api/scenes/${scene.id}/frames?from=${from}&count=${count}&r=${version}`, scene.frames);
        store.onArrival = () => (shownFrame = -1);
        this.loadSound();
        const shapes = scene.id + scene.shapesKey;
        if (shapes !== painter.key) {
          await painter.load(`/api/scenes/${scene.id}/shapes?r=${version}`);
          painter.key = shapes;
        }
        store.first(scene.picture);
        frames = store;
        shownFrame = -1;
      }
      if (!scene.members.some((m) => m.id === this.selectedMember)) this.selectedMember = scene.members[0]?.id ?? null;
      if (!scene.lines.some((l) => l.id === this.selectedLine)) this.selectedLine = null;
      if (!scene.lines.some((l) => l.id === this.picked.line)) this.unpick();
      if (!this.clipIds.every((id) => scene.clips.some((c) => c.id === id))) this.pickClip(null);
      this.scrolled();
      if (fit) score.fit();
      this.error = "";
    } catch (e) {
      // A scene that an undo has taken away: there is another.
      const other = e.status === 404 && this.sceneList.find((s) => s.id !== this.sceneId);
      if (other) return void this.goToScene(other.id);
      this.error = e.message;
    }
  },
  loadSound() {
    const { id, sound, duration } = raw;
    const { bare } = this;
    const address = (from, to, speed) => `/api/scenes/${id}/sound?from=${from}&to=${to}&speed=${speed}&r=${sound}${bare ? `&bare=${bare}` : ""}`;
    player.load(address, duration, `${id}${sound}${bare ?? ""}`);
  },

  // ---- the script: of a long one only what is seen is on the page

  get shownLines() {
    const lines = this.scene?.lines ?? [];
    return lines.length <= 80 ? lines : lines.slice(this.shown.from, this.shown.to);
  },
  scrolled() {
    const lines = raw?.lines ?? [];
    const box = this.$refs.script;
    if (lines.length <= 80) {
      if (this.shown.above || this.shown.below) Object.assign(this.shown, { above: 0, below: 0 });
      return;
    }
    for (const element of box.querySelectorAll("article")) heights.set(element.id, element.offsetHeight + 8);
    const heightOf = (l) => heights.get(l.id) ?? 100;
    let y = 0;
    let from = 0;
    while (from < lines.length - 1 && y + heightOf(lines[from]) < box.scrollTop - 800) y += heightOf(lines[from++]);
    let to = from;
    let below = y;
    while (to < lines.length && below < box.scrollTop + box.clientHeight + 800) below += heightOf(lines[to++]);
    const rest = lines.slice(to).reduce((sum, l) => sum + heightOf(l), 0);
    Object.assign(this.shown, { from, to, above: y, below: rest });
  },

  takeText(line) {
    if (!line.take) return "No voice yet";
    const from = { synthesis: () => voiceName(this.voices, line.take.name), recording: () => "Recorded", file: () => line.take.name }[line.take.kind]();
    return `${from}, ${line.duration.toFixed(1)} s`;
  },

  async pollJobs() {
    let delay = 4000;
    try {
      const jobs = await get(`/api/productions/${this.scene.production.id}/jobs`);
      for (const job of jobs) {
        job.active = job.state === "queued" || job.state === "running";
        job.failed = job.state === "failed" || job.state === "cancelled";
        job.percent = Math.round(job.progress * 100);
        job.film = `/api/jobs/${job.id}/film`;
        job.download = `${job.film}?download=true`;
        job.name = job.kind === "render" ? `Film: ${job.title}` : job.title;
      }
      this.jobs = jobs.filter((j) => j.active || j.state === "failed" || j.kind === "render").slice(0, 6);
      if (jobs.some((j) => j.active)) delay = 500;
      // A take that was finished since the last look changes the scene.
      const finished = jobs.filter((j) => j.state === "done" && j.kind !== "render").map((j) => j.id);
      // While somebody records the stage holds still; the news waits.
      const fresh = jobs.filter((j) => j.news && j.state === "done" && this.finished.length && !this.finished.includes(j.id));
      if (fresh.length === 1) this.say(fresh[0].news);
      const isNew = !this.isTaking && finished.some((id) => !this.finished.includes(id));
      if (!this.isTaking) this.finished = finished;
      if (isNew) await this.reload(this.scene.lines.length === 0);
    } catch {
      /* the next round will tell */
    }
    clearTimeout(this.poll);
    this.poll = setTimeout(() => this.pollJobs(), delay);
  },
  hurry() {
    clearTimeout(this.poll);
    this.poll = setTimeout(() => this.pollJobs(), 120);
  },

  async attempt(work) {
    try {
      this.error = "";
      return await work();
    } catch (e) {
      this.error = e.message;
      if (e.status === 409) await this.reload().then(() => (this.error = e.message));
      return null;
    }
  },
  async edit(work, say) {
    const done = await this.attempt(work);
    if (done === null) return;
    await this.reload();
    this.hurry();
    if (say) this.say(say);
  },
  say(text, undo = true) {
    this.toast = { text, undo };
    clearTimeout(this.toastTimer);
    this.toastTimer = setTimeout(() => (this.toast = null), 7000);
  },
  closeToast() {
    this.toast = null;
  },
  dismissError() {
    this.error = "";
  },
  get revision() {
    return this.scene.production.revision;
  },

  // ---- showing

  show() {
    if (!this.scene || !frames) return;
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
    if (painter.resize(Math.round(w * ratio), Math.round(h * ratio))) shownFrame = -1;
    const t = player.time;
    const frame = Math.min(this.scene.frames - 1, Math.floor(t * this.scene.fps + 1e-6));
    if (frame !== shownFrame) {
      // While somebody performs, the frames with the hand in them are shown.
      const items = this.isPerforming ? null : frames.get(frame);
      if (items) {
        painter.draw(items);
        shownFrame = frame;
        canvas.dataset.frame = frame;
      }
    }
    if (this.time !== t) {
      this.time = t;
      this.frame = frame;
      if (player.playing) score.follow(t);
      this.light(t);
    }
    this.playing = player.playing;
    score.update(t, this.loop, this.selectedLine);
  },

  // The word that is heard right now, on the page.
  light(t) {
    let lit = "";
    for (const line of raw.lines) {
      if (line.start === null || t < line.start || t >= line.start + line.duration) continue;
      const local = t - line.start;
      const word = line.parts.find((p) => p.word >= 0 && local >= p.start && local < p.end);
      if (word) lit = `${line.id}:${word.key}`;
    }
    if (lit === this.lit) return;
    document.querySelector(".said.lit")?.classList.remove("lit");
    if (lit) document.querySelector(`[data-word="${lit}"]`)?.classList.add("lit");
    this.lit = lit;
  },
  get clockText() {
    return `${clock(this.time, true)}`;
  },
  get frameText() {
    return this.scene ? `frame ${this.frame} of ${this.scene.frames - 1}` : "";
  },
  get loopText() {
    return this.loop ? `${this.loop.start.toFixed(2)} to ${this.loop.end.toFixed(2)} s` : "Loop off";
  },
  get isEmpty() {
    return this.scene !== null && this.scene.lines.length === 0;
  },
  get undoText() {
    return this.scene?.undo ? `Undo: ${this.scene.undo} (Ctrl+Z)` : "Nothing to undo";
  },
  get redoText() {
    return this.scene?.redo ? `Redo: ${this.scene.redo} (Ctrl+Shift+Z)` : "Nothing to redo";
  },

  // ---- playing

  toggle() {
    if (player.playing) player.pause();
    else player.play();
    this.playing = player.playing;
  },
  goTo(t, sound = true) {
    player.seek(Math.max(0, Math.min(t, this.scene.duration - 1e-3)));
    score.follow(player.position);
    if (sound) player.grain(player.position);
  },
  step(n) {
    player.pause();
    const frame = Math.max(0, Math.min(this.scene.frames - 1, Math.floor(player.position * this.scene.fps + 1e-6) + n));
    player.position = (frame + 0.001) / this.scene.fps;
    score.follow(player.position);
    player.grain(player.position, 0.06);
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
  stepWord(n) {
    const starts = this.scene.lines.filter((l) => l.start !== null).flatMap((l) => (l.words?.length ? l.words : (l.phones ?? [])).map((w) => l.start + w[1]));
    starts.sort((a, b) => a - b);
    const t = player.position;
    const target = n > 0 ? starts.find((s) => s > t + 0.002) : starts.findLast((s) => s < t - 0.002);
    if (target === undefined) return;
    player.pause();
    player.position = target + 0.0005;
    score.follow(target);
    player.grain(target, 0.18);
  },
  playWord(line, event) {
    this.select(line);
    const key = event.target.dataset.word?.split(":")[1];
    const part = line.parts.find((p) => p.key === key);
    if (!part) return;
    this.goTo(line.start + part.start + 0.0005);
    this.pickWord(line, part.word);
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
  setLoop(loop) {
    this.loop = loop;
    player.setLoop(loop && { ...loop });
  },
  toggleLoop() {
    if (this.loop) return this.setLoop(null);
    const line = this.scene.lines.find((l) => l.id === this.selectedLine && l.start !== null);
    this.setLoop(line ? { start: line.start, end: line.start + line.duration } : { start: 0, end: this.scene.duration });
  },
  zoomIn() {
    score.zoom(1.5);
  },
  zoomOut() {
    score.zoom(1 / 1.5);
  },
  fit() {
    score.fit();
  },

  // ---- pointer and keys

  listen() {
    const canvas = this.$refs.score;
    let scrubbing = false;
    let last = 0;
    const scrub = (e) => {
      const t = Math.max(0, Math.min(score.timeAt(e.offsetX), this.scene.duration - 1e-3));
      player.pause();
      player.position = t;
      if (performance.now() - last > 55) {
        last = performance.now();
        player.grain(t);
      }
    };
    canvas.addEventListener("pointerdown", (e) => {
      if (!this.scene || e.button !== 0) return;
      canvas.focus();
      const hit = score.hit(e.offsetX, e.offsetY);
      if (hit?.member) this.selectedMember = hit.member.id;
      if (hit?.line || e.offsetY > 26) this.selectedLine = hit?.line?.id ?? null;
      if (hit?.line) this.reveal(hit.line);
      if (e.offsetX < 116) return;
      canvas.setPointerCapture(e.pointerId);
      player.pause();
      score.drag = this.takeActing(hit, e) ?? this.takeHold(hit, e);
      if (score.drag) return;
      this.unpick();
      scrubbing = true;
      scrub(e);
    });
    canvas.addEventListener("pointermove", (e) => {
      if (score.drag?.acting) return this.dragActing(score.drag, score.timeAt(e.offsetX), e);
      if (score.drag) return score.drag.done ? null : this.dragTo(score.drag, score.timeAt(e.offsetX), e);
      if (scrubbing) return scrub(e);
      const hit = score.hit(e.offsetX, e.offsetY);
      canvas.style.cursor =
        hit?.edge || hit?.boundary ? "ew-resize" : (hit?.lane === "mouth" && hit.item) || hit?.clip || hit?.sound || hit?.lane === "line" ? "grab" : "default";
    });
    const drop = (e) => {
      scrubbing = false;
      const { drag } = score;
      if (!drag || drag.done) return void (score.drag = null);
      const done = drag.acting ? this.dropActing(drag) : this.letGo(drag, score.timeAt(e.offsetX));
      done.finally(() => (score.drag = null));
    };
    canvas.addEventListener("pointerup", drop);
    canvas.addEventListener("pointercancel", () => {
      scrubbing = false;
      score.drag = null;
    });
    canvas.addEventListener("dblclick", (e) => {
      const hit = score.hit(e.offsetX, e.offsetY);
      if (!hit?.item) return;
      this.setLoop({ start: Math.max(0, hit.line.start + hit.item[1] - 0.05), end: hit.line.start + hit.item[2] + 0.05 });
      player.position = this.loop.start;
      player.play();
    });
    canvas.addEventListener(
      "wheel",
      (e) => {
        if (!this.scene) return;
        if (e.ctrlKey) {
          e.preventDefault();
          score.zoom(e.deltaY < 0 ? 1.2 : 1 / 1.2, score.timeAt(e.offsetX));
        } else if (Math.abs(e.deltaX) > Math.abs(e.deltaY) || e.shiftKey) {
          e.preventDefault();
          score.scroll += (e.deltaX || e.deltaY) / score.pixelsPerSecond;
          score.clampScroll();
        }
      },
      { passive: false },
    );
    document.addEventListener("keydown", (e) => this.key(e));
    window.addEventListener("beforeunload", (e) => {
      if (this.booth.busy || this.isRecording || this.rec.state === "done") e.preventDefault();
    });
    for (const name of ["dragenter", "dragover"])
      document.addEventListener(name, (e) => {
        if (!e.dataTransfer?.types.includes("Files")) return;
        e.preventDefault();
        this.over = true;
      });
    document.addEventListener("dragleave", (e) => !e.relatedTarget && (this.over = false));
    document.addEventListener("drop", (e) => {
      e.preventDefault();
      this.over = false;
      const files = [...(e.dataTransfer?.files ?? [])];
      if (!files.length) return;
      this.openBooth("file");
      this.takeFiles(files);
    });
  },
  key(e) {
    if (!this.scene || this.isPerforming || document.querySelector("dialog[open]")) return;
    const typing = e.target.closest?.("input:not([type=range], [type=checkbox]), textarea, select, [contenteditable]");
    if (typing || (e.target.closest?.("input[type=range]") && e.key.startsWith("Arrow"))) return;
    const control = e.ctrlKey || e.metaKey;
    if (this.actingKey(e) || this.handKey(e)) return e.preventDefault();
    const map = {
      " ": () => (e.target.closest?.("button, a, summary") && e.target !== document.body ? null : this.toggle()),
      ArrowLeft: () => (control ? this.stepWord(-1) : this.step(e.shiftKey ? -10 : -1)),
      ArrowRight: () => (control ? this.stepWord(1) : this.step(e.shiftKey ? 10 : 1)),
      Home: () => this.goTo(0, false),
      End: () => this.goTo(this.scene.duration, false),
      j: () => this.goTo(player.position - 1),
      k: () => player.pause(),
      l: () => (player.playing ? player.play(2) : player.play()),
      i: () => this.setIn(),
      o: () => this.setOut(),
      p: () => this.toggleLoop(),
      "+": () => this.zoomIn(),
      "=": () => this.zoomIn(),
      "-": () => this.zoomOut(),
      f: () => this.fit(),
      PageUp: () => this.turnScene(-1),
      PageDown: () => this.turnScene(1),
      n: () => this.openBooth("type"),
      t: () => this.nextTake(),
      b: () => this.toggleBare(),
      "?": () => this.openHelp(),
      Delete: () => this.deleteSelected(),
    };
    if (control && e.key.toLowerCase() === "z") {
      e.preventDefault();
      return e.shiftKey ? this.redo() : this.undo();
    }
    if (control && !e.key.startsWith("Arrow")) return;
    const action = map[e.key.length === 1 ? e.key.toLowerCase() : e.key];
    if (!action) return;
    if (action() !== null) e.preventDefault();
  },
  openHelp() {
    this.$refs.help.showModal();
  },
  closeHelp() {
    this.$refs.help.close();
  },
  theme() {
    toggleTheme();
  },

  // ---- edits

  undo() {
    if (!this.scene.undo) return;
    return this.edit(async () => {
      const { name } = await post(`/api/productions/${this.scene.production.id}/undo`, { revision: this.revision });
      this.say(`Undone: ${name}`, false);
    });
  },
  redo() {
    if (!this.scene.redo) return;
    return this.edit(async () => {
      const { name } = await post(`/api/productions/${this.scene.production.id}/redo`, { revision: this.revision });
      this.say(`Done again: ${name}`, false);
    });
  },
  // A line that is chosen on the score comes into view in the script.
  reveal(line) {
    const box = this.$refs.script;
    const element = document.getElementById(line.id);
    if (element) return element.scrollIntoView({ block: "nearest" });
    const index = raw.lines.findIndex((l) => l.id === line.id);
    box.scrollTop = raw.lines.slice(0, index).reduce((sum, l) => sum + (heights.get(l.id) ?? 100), 0) - box.clientHeight / 3;
  },
  select(line) {
    if (this.picked.line !== line.id) this.unpick();
    this.pickClip(null);
    this.selectedLine = line.id;
    this.selectedMember = line.member;
  },
  selectMember(member) {
    this.selectedMember = member.id;
  },
  get member() {
    return this.scene?.members.find((m) => m.id === this.selectedMember) ?? null;
  },
  get line() {
    return this.scene?.lines.find((l) => l.id === this.selectedLine) ?? null;
  },
  startEdit(line) {
    this.editing = line.id;
    this.draft = line.written;
    this.$nextTick(() => document.getElementById(`text-${line.id}`)?.focus());
  },
  stopEdit() {
    this.editing = null;
  },
  saveText(line) {
    if (this.editing !== line.id) return;
    this.editing = null;
    return this.write(line, this.draft.trim());
  },
  takeDraft(line) {
    return this.write(line, line.written);
  },
  write(line, text) {
    if (text === line.text) return;
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, text }), "Words changed.");
  },
  deleteLine(line) {
    return this.edit(() => remove(`/api/lines/${line.id}?revision=${this.revision}`), "Line deleted.");
  },
  deleteSelected() {
    if (this.line) this.deleteLine(this.line);
  },
  giveLine(event) {
    if (!this.line || event.target.value === this.line.member) return;
    return this.edit(() => patch(`/api/lines/${this.line.id}`, { revision: this.revision, member: event.target.value }));
  },
  retitle(event) {
    const title = event.target.value.trim();
    if (!title || title === this.scene.production.title) return;
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, title }));
  },
  setBackdrop(event) {
    return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, backdrop: event.target.value }));
  },
  setSize(event) {
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, size: event.target.value }));
  },
  setRate(event) {
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, rate: event.target.value }));
  },
  get sizeText() {
    return this.scene ? `${this.scene.production.width}x${this.scene.production.height}` : "";
  },
  addMember(key) {
    return this.edit(() => post(`/api/productions/${this.scene.production.id}/members`, { revision: this.revision, character: key }), "Cast member added.");
  },
  removeMember() {
    return this.edit(() => remove(`/api/members/${this.member.id}?revision=${this.revision}`), `${this.member.roleName} has left, with all lines.`);
  },
  changeMember(change) {
    return this.edit(() => patch(`/api/members/${this.member.id}`, { revision: this.revision, ...change }));
  },
  renameMember(event) {
    const roleName = event.target.value.trim();
    if (roleName && roleName !== this.member.roleName) return this.changeMember({ roleName });
  },
  recast(event) {
    return this.changeMember({ character: event.target.value });
  },
  get dials() {
    return this.rows(dialText, this.member?.mouth);
  },
  get motions() {
    return this.rows(motionText, this.member?.performance);
  },
  rows(texts, values) {
    if (!values) return [];
    return Object.entries(texts).map(([key, [name, min, max, step, unit]]) => ({
      key,
      name,
      min,
      max,
      step,
      value: values[key],
      text: unit === "ms" ? `${Math.round(values[key] * 1000)} ms` : unit ? `${values[key]} ${unit}` : values[key].toFixed(2).replace(/0$/, ""),
    }));
  },
  // While a dial is turned the frame on the stage follows; when it is let go the change is made.
  tryDial(event) {
    const { key } = event.target.dataset;
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: { ...this.member.mouth, [key]: Number(event.target.value) } });
  },
  turnDial(event) {
    const { key } = event.target.dataset;
    return this.changeMember({ mouth: { ...this.member.mouth, [key]: Number(event.target.value) } });
  },
  get shapeDials() {
    const dials = this.member?.mouth.shapeStrengths ?? {};
    return (this.scene?.shapes ?? [])
      .filter((s) => s !== "Rest" && s !== "Closed")
      .map((key) => ({ key, value: dials[key] ?? 1, text: `${Math.round((dials[key] ?? 1) * 100)} %` }));
  },
  withShapeDial(event) {
    const { key } = event.target.dataset;
    return { ...this.member.mouth, shapeStrengths: { ...this.member.mouth.shapeStrengths, [key]: Number(event.target.value) } };
  },
  tryShapeDial(event) {
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: this.withShapeDial(event) });
  },
  turnShapeDial(event) {
    return this.changeMember({ mouth: this.withShapeDial(event) });
  },
  turnMotion(event) {
    const { key } = event.target.dataset;
    return this.changeMember({ performance: { ...this.member.performance, [key]: Number(event.target.value) } });
  },
  setSteady(event) {
    return this.changeMember({ performance: { ...this.member.performance, isSteady: event.target.checked } });
  },
  newSeed() {
    return this.changeMember({ performance: { ...this.member.performance, seed: (this.member.performance.seed % 9999) + 1 } });
  },
  setHold(event) {
    return this.changeMember({ mouth: { ...this.member.mouth, holdFrames: Number(event.target.value) } });
  },

  // ---- jobs and film

  render() {
    return this.attempt(async () => {
      await post(`/api/productions/${this.scene.production.id}/renders`);
      this.hurry();
    });
  },
  cancelJob(job) {
    return this.attempt(async () => {
      await post(`/api/jobs/${job.id}/cancel`);
      this.hurry();
    });
  },
  retryJob(job) {
    return this.attempt(async () => {
      await post(`/api/jobs/${job.id}/retry`);
      this.hurry();
    });
  },

  // ---- a voice arrives

  openType() {
    this.openBooth("type");
  },
  openScript() {
    this.openBooth("script");
  },
  openRecord() {
    this.openBooth("record");
  },
  openFile() {
    this.openBooth("file");
  },
  openBooth(mode, line = null) {
    Object.assign(this.booth, {
      open: true,
      mode,
      line,
      member: line?.member ?? this.selectedMember,
      text: line?.text ?? "",
      busy: false,
      error: "",
      progress: 0,
    });
    if (!this.$refs.booth.open) this.$refs.booth.showModal();
    this.punch.on = false;
    if (mode === "record") this.openMicrophone();
    if (mode === "type") this.$nextTick(() => this.$refs.words?.focus());
  },
  anotherTake(line) {
    this.openBooth(line.take?.kind === "synthesis" ? "type" : (line.take?.kind ?? "type"), line);
  },
  switchBooth(mode) {
    this.closeMicrophone();
    this.booth.mode = mode;
    this.booth.error = "";
    if (mode === "record") this.openMicrophone();
  },
  boothType() {
    this.switchBooth("type");
  },
  boothRecord() {
    this.switchBooth("record");
  },
  boothFile() {
    this.switchBooth("file");
  },
  boothScript() {
    this.switchBooth("script");
  },
  async chooseScript(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (file) this.booth.text = await file.text();
  },
  bringScript() {
    return this.tryBooth(async () => {
      const done = await post(`/api/scenes/${this.sceneId}/script`, { revision: this.revision, text: this.booth.text });
      this.booth.busy = false;
      this.closeBooth();
      await this.reload();
      this.hurry();
      this.say([`${done.lines} lines, ${done.members} new in the cast.`, ...done.problems].join(" "));
    });
  },
  closeBooth() {
    this.closeMicrophone();
    this.$refs.booth.close();
    this.booth.open = false;
  },
  async send(order) {
    const { line, member } = this.booth;
    if (line) await post(`/api/lines/${line.id}/takes`, order);
    else await post(`/api/scenes/${this.sceneId}/lines`, { member, ...order });
    this.booth.busy = false;
    this.closeBooth();
    this.hurry();
  },
  async tryBooth(work) {
    this.booth.busy = true;
    this.booth.error = "";
    try {
      await work();
    } catch (e) {
      this.booth.error = e.message;
    }
    this.booth.busy = false;
  },
  speak() {
    return this.tryBooth(() => this.send({ kind: "synthesis", text: this.booth.text }));
  },
  chooseFile(event) {
    const files = [...event.target.files];
    event.target.value = "";
    if (files.length) return this.takeFiles(files);
  },
  // Each file becomes a line; a role's name in the file's name says whose.
  takeFiles(files) {
    return this.tryBooth(async () => {
      const { line, member, text } = this.booth;
      const list = line ? files.slice(0, 1) : files;
      if (!line && this.booth.speakers === "hand") {
        const { hash, name, seconds } = await upload(list[0], list[0].name, (p) => (this.booth.progress = p));
        this.booth.busy = false;
        this.closeBooth();
        return this.openCutter(hash, name, seconds);
      }
      if (!line && this.booth.speakers !== "one") {
        for (const [n, file] of list.entries()) {
          const { hash, name } = await upload(file, file.name, (p) => (this.booth.progress = (n + p) / list.length));
          await post(`/api/scenes/${this.sceneId}/turns`, { hash, name, speakers: this.booth.speakers === "find" ? null : Number(this.booth.speakers) });
        }
        this.booth.busy = false;
        this.closeBooth();
        this.hurry();
        return;
      }
      for (const [n, file] of list.entries()) {
        const { hash, name } = await upload(file, file.name, (p) => (this.booth.progress = (n + p) / list.length));
        const order = { kind: "file", hash, name, text: list.length === 1 ? text : "" };
        const named = list.length > 1 ? this.scene.members.find((m) => name.toLowerCase().includes(m.roleName.toLowerCase())) : null;
        if (line) await post(`/api/lines/${line.id}/takes`, order);
        else await post(`/api/scenes/${this.sceneId}/lines`, { member: named?.id ?? member, ...order });
      }
      this.booth.busy = false;
      this.closeBooth();
      this.hurry();
    });
  },
});

// Words of a line as plain elements: a long script has thousands, and none needs to be watched by itself.
Alpine.directive("words", (element, { expression }, { evaluateLater, effect }) => {
  const read = evaluateLater(expression);
  effect(() =>
    read((list) => {
      const line = element.closest("article").id;
      element.replaceChildren(
        ...list.map((part) => {
          const span = document.createElement("span");
          span.textContent = part.text;
          if (part.word >= 0) {
            span.className = part.unsure ? "said unsure" : "said";
            span.dataset.word = `${line}:${part.key}`;
          }
          return span;
        }),
      );
    }),
  );
});
Alpine.data("studio", () =>
  mix(
    studio(),
    hands(tools),
    acting(tools),
    booths(tools),
    recording(tools),
    cutter(tools),
    performing(tools),
    alternates(tools),
    scenes(tools),
    sounds(tools),
    voiceCheck(tools),
  ),
);
Alpine.start();
