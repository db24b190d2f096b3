// Languages: a production's lines beside the same lines in another one, and versions in further ones.
import { get, patch, post } from "../../front/api.js";
import { clock } from "../../front/score.js";
import { nameOfLanguage } from "./languages.js";
import { onKey, player } from "./shared.js";

// A voice bears being made so much faster or slower (as the server has it).
const bears = 1.25;
const near = 0.03;

const lengthsOf = ({ length, beside, speed }) => {
  const fast = Math.abs(speed - 1) > 0.001 ? `, ${speed.toFixed(2)}x` : "";
  if (length === null) return "no voice yet";
  if (!beside) return `${length.toFixed(1)} s`;
  const by = Math.round((length / beside.length - 1) * 100);
  return `${length.toFixed(1)} s for ${beside.length.toFixed(1)} s, ${by > 0 ? "+" : ""}${by} %${fast}`;
};

export const dubbingPanel = () => ({
  isDubbing: false,
  dub: { beside: null, versions: [], rows: [], captioned: [] },
  besideId: "",
  dubProblems: [],
  dubTag: "",
  dubScript: null,
  dubScriptName: "",
  dubError: "",
  isAddingVersion: false,
  dubEnd: null,
  init() {
    onKey(62, ({ name, control }) => (!control && name === "d" ? (this.openDubbing(), true) : false));
    window.addEventListener("scene-loaded", () => this.isDubbing && this.loadDubbing());
  },
  async openDubbing() {
    this.isDubbing = true;
    this.dubProblems = [];
    await this.loadDubbing();
  },
  closeDubbing() {
    this.isDubbing = false;
    document.getElementById("score-grid").focus({ preventScroll: true });
  },
  async loadDubbing() {
    const found = await this.attempt(() => get(`/api/scenes/${this.sceneId}/dubbing${this.besideId ? `?beside=${this.besideId}` : ""}`));
    if (found) this.dub = found;
  },
  layBeside(id) {
    this.besideId = id;
    this.dubProblems = [];
    return this.loadDubbing();
  },
  get otherVersions() {
    const name = (v) => (v.isOriginal ? `${v.title}, the original` : v.title);
    return this.dub.versions.filter((v) => v.id !== this.scene?.production.id).map((v) => ({ ...v, name: name(v) }));
  },
  get ownVersion() {
    return this.dub.versions.find((v) => v.id === this.scene?.production.id);
  },
  get dubText() {
    const own = this.ownVersion;
    const left = this.dub.rows.filter((r) => r.isLeft).length;
    const here = own?.language ? `This is ${nameOfLanguage(own.language)}.` : "This is the original.";
    return own?.language && left ? `${here} ${left === 1 ? "One line is" : `${left} lines are`} not translated yet.` : here;
  },
  get dubRows() {
    const isVersion = Boolean(this.ownVersion?.language);
    return this.dub.rows.map((r) => ({
      ...r,
      isLeft: r.isLeft && isVersion,
      time: r.start === null ? "no voice yet" : clock(r.start, true),
      lengths: lengthsOf(r),
      isFar: r.beside && r.length !== null && !r.isLeft && Math.max(r.length / r.beside.length, r.beside.length / r.length) > bears,
      canFit: isVersion && r.beside && r.length !== null && !r.isLeft && Math.abs(r.length / r.beside.length - 1) > near,
      rows: Math.min(5, Math.max(1, Math.ceil(r.text.length / 46))),
    }));
  },
  writeDub(row, event) {
    const text = event.target.value.trim();
    if (!text || text === row.text) return;
    return this.edit(() => patch(`/api/lines/${row.line}`, { revision: this.revision, text }), null, { field: event.target });
  },
  async fitLines(line) {
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/fit`, { revision: this.revision, beside: this.dub.beside, line }));
    if (!done) return;
    this.dubProblems = done.problems;
    this.say(done.count === 1 ? "One line fits better now." : `${done.count} lines fit better now.`);
  },
  playDub(row) {
    this.select(this.scene.lines.find((l) => l.id === row.line));
    this.goTo(row.start, false);
    this.dubEnd = row.end;
    player.play();
    this.playing = player.playing;
  },
  stopDub(time) {
    if (this.dubEnd === null || time < this.dubEnd) return;
    this.dubEnd = null;
    player.pause();
  },
  playBeside(row) {
    const { scene, start, end } = row.beside;
    player.pause();
    return this.attempt(async () => {
      const response = await fetch(`/api/scenes/${scene}/sound?from=${start}&to=${end}`);
      if (!response.ok) throw new Error("The other language could not be heard.");
      await player.playBytes(await response.arrayBuffer());
    });
  },
  recordDub(row) {
    const line = this.scene.lines.find((l) => l.id === row.line);
    this.$dispatch("open-booth", { mode: localStorage.getItem("another-take") ?? "record", line });
  },
  async chooseDubScript(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    this.dubScript = await file.text();
    this.dubScriptName = file.name;
    // "play.de.fountain" says it by itself.
    this.dubTag ||= /\.([A-Za-z]{2,3}(?:-[A-Za-z0-9]{2,8})*)\.[a-z]+$/.exec(file.name)?.[1] ?? "";
  },
  async addVersion() {
    this.isAddingVersion = true;
    this.dubError = "";
    try {
      const order = { language: this.dubTag.trim(), text: this.dubScript };
      const made = await post(`/api/productions/${this.scene.production.id}/versions`, order);
      Object.assign(this, { dubTag: "", dubScript: null, dubScriptName: "", besideId: made.id });
      await this.loadDubbing();
      const voices = made.hasVoices ? "" : " No voice here speaks that language: everybody keeps theirs.";
      this.say(`${made.spoken} lines are spoken${made.left ? `, ${made.left} have no translation yet` : ""}.${voices}`);
    } catch (e) {
      this.dubError = e.message;
    } finally {
      this.isAddingVersion = false;
    }
  },
});
