// The scene as the server has it: only what has changed travels, and lines that are as they were stay the same objects.
import Alpine from "@alpinejs/csp";
import { patch, post } from "../../front/api.js";
import { FrameStore } from "../../front/stage.js";
import { parts } from "./line-parts.js";
import { voiceName } from "./voice-names.js";
import { player, score, stage } from "./shared.js";

// Pictures of mouths that have come, by their keys.
const mouths = {};

// What comes with the hearing of a line; the same as long as the line's number of it is.
const heardKeys = [
  "source",
  "draft",
  "words",
  "phones",
  "cues",
  "levels",
  "pitch",
  "accents",
  "rises",
  "hasBand",
  "isHidden",
  "sounds",
  "isForeign",
  "repeats",
];
const heavy = new Set([...heardKeys, "parts"]);

// The next picture is on the screen; a page that is not looked at does not wait for it.
const drawn = () =>
  new Promise((done) => {
    requestAnimationFrame(() => setTimeout(done));
    setTimeout(done, 200);
  });

export const loading = () => ({
  // One at a time: an answer leaves out what the page has, so nothing may change in between.
  reload(fit = false) {
    this.loading = (this.loading ?? Promise.resolve()).then(() => this.load(fit));
    return this.loading;
  },
  async load(fit) {
    try {
      // Lines that are as they were stay the same objects: what hangs on them on the page is not made again. What was heard in them does not travel again.
      const known = new Map((score.raw?.id === this.sceneId ? score.raw.lines : []).map((l) => [l.id, l]));
      const hearings = new Map([...known.values()].filter((l) => l.heard).map((l) => [l.heard, l]));
      const seen = score.raw?.id === this.sceneId ? Math.floor(player.time * score.raw.fps + 1e-6) : 0;
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
        const isSaid = old && old.heard === line.heard && old.written === line.written;
        line.role = member.roleName;
        line.ink = member.ink;
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
      if (changed) await this.showPicture(scene, version);
      score.raw = scene;
      this.scene = scene;
      document.title = `${scene.production.title} · Zamblo`;
      score.view?.setScene(scene);
      if (changed) this.loadSound();
      if (!scene.members.some((m) => m.id === this.selectedMember)) this.selectedMember = scene.members[0]?.id ?? null;
      if (!scene.lines.some((l) => l.id === this.selectedLine)) this.selectedLine = null;
      if (!scene.lines.some((l) => l.id === this.picked.line)) this.unpick();
      if (!this.clipIds.every((id) => scene.clips.some((c) => c.id === id))) this.pickClip(null);
      window.dispatchEvent(new Event("scene-loaded"));
      if (fit) score.view?.fit();
      if (!this.waiting) this.error = "";
    } catch (e) {
      // A scene that an undo has taken away: there is another.
      const other = e.status === 404 && this.sceneList.find((s) => s.id !== this.sceneId);
      if (other) return void this.goToScene(other.id);
      this.error = e.message;
    }
  },
  // What is to be seen, ahead of what is written about it: where shapes are others, the picture is there before the page follows.
  async showPicture(scene, version) {
    this.bare = null;
    const store = new FrameStore((from, count) => `/api/scenes/${scene.id}/frames?from=${from}&count=${count}&r=${version}`, scene.frames);
    store.onArrival = () => (stage.shown = -1);
    const shapes = scene.id + scene.shapesKey;
    const isOther = shapes !== stage.painter.key;
    if (isOther) {
      await stage.painter.load(`/api/scenes/${scene.id}/shapes?r=${version}`);
      stage.painter.key = shapes;
    }
    stage.painter.look(scene.production.view);
    store.first(scene.picture);
    stage.frames = store;
    stage.showAgain();
    const { production, id } = score.raw ?? {};
    const isAlike = id === scene.id && production.width === scene.production.width && production.height === scene.production.height;
    if (isOther && isAlike) await drawn();
  },
  loadSound() {
    const { id, sound, duration } = score.raw;
    const { bare } = this;
    const address = (from, to, speed) => `/api/scenes/${id}/sound?from=${from}&to=${to}&speed=${speed}&r=${sound}${bare ? `&bare=${bare}` : ""}`;
    player.load(address, duration, `${id}${sound}${bare ?? ""}`);
  },
  takeText(line) {
    if (!line.take) return "No voice yet";
    const from = { synthesis: () => voiceName(this.voices, line.take.name), recording: () => "Recorded", file: () => line.take.name }[line.take.kind]();
    return `${from}, ${line.duration.toFixed(1)} s`;
  },
  get isEmpty() {
    return this.scene !== null && this.scene.lines.length === 0;
  },
  changeScene(change) {
    return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, ...change }));
  },
  changeMember(change, key = null) {
    const { id } = this.member;
    return this.edit(() => patch(`/api/members/${id}`, { revision: this.revision, ...change }), null, { key });
  },
  // Before and after, with one key: the line without cleaning, colour and level, in the same times.
  toggleBare() {
    if (!this.line) return;
    return this.attempt(async () => {
      this.bare = this.bare ? null : this.line.id;
      this.loadSound();
      await player.fetchPiece(player.pieceAt(player.position));
      this.say(this.bare ? "As it came (B for as it is now)." : "As it is now.", false);
    });
  },
  bare: null,
  sceneId: "",
  scene: null,
  voices: [],
});
