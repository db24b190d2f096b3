// A script is looked through before it is taken: who says what and how, who plays whom, and what nobody says.
import { post } from "../../front/api.js";
import { drafts } from "./drafts.js";
import { voiceName } from "./voice-names.js";

const gestureName = (key) => key.replace(/-/g, " ");

const lookWords = { camera: "at the camera", left: "left", right: "right", up: "up", down: "down" };

export const lookThroughPanel = () => ({
  look: { lines: [], roles: [], unspoken: [], problems: [], scenes: [], title: null },
  lookText: "",
  lookError: "",
  isTakingScript: false,
  async openLook({ text }) {
    this.lookText = text;
    this.lookError = "";
    const look = await this.attempt(() => post(`/api/scenes/${this.sceneId}/script/look`, { text }));
    if (!look) return;
    look.lines.forEach((l, i) => Object.assign(l, { key: `${i}`, isIn: true }));
    look.unspoken.forEach((u, i) => Object.assign(u, { key: `u${i}` }));
    for (const r of look.roles) r.member ??= "";
    this.look = look;
    this.$refs.look.showModal();
  },
  closeLook() {
    this.$refs.look.close();
  },
  get lookCount() {
    return this.look.lines.filter((l) => l.isIn).length;
  },
  get lookHead() {
    const { lines, roles, scenes } = this.look;
    const named = scenes.filter((s) => s).length;
    const count = (n, what) => `${n} ${what}${n === 1 ? "" : "s"}`;
    return `${count(lines.length, "line")}, ${count(roles.length, "role")}${named ? `, ${count(named, "scene")}` : ""}`;
  },
  get roleNames() {
    return [...new Set(this.look.lines.map((l) => l.role))];
  },
  // What a direction is understood as, in words.
  asks(line) {
    const gestures = line.gestures.map(gestureName);
    const looks = line.looks.map((who) => `looks ${lookWords[who] ?? `at ${who}`}`);
    return [line.delivery, line.mood, ...gestures, ...looks, line.isOffStage ? "off stage" : "", line.isTogether ? "at once with the line before" : ""]
      .filter((x) => x)
      .join(", ");
  },
  sceneOf(line, index) {
    const before = this.look.lines[index - 1];
    return !before || before.scene !== line.scene ? this.look.scenes[line.scene] : "";
  },
  giveRole(line, event) {
    const role = event.target.value.trim();
    if (!role) return void (event.target.value = line.role);
    line.role = role;
    if (!this.look.roles.some((r) => r.role.toLowerCase() === role.toLowerCase())) this.addRole(role);
  },
  addRole(role) {
    const { key, voice } = this.scene.characters[this.look.roles.length % this.scene.characters.length];
    this.look.roles.push({ role, name: role, lines: 0, member: "", character: key, voice });
  },
  // A row that nobody says is said after all: it becomes a line at its place.
  sayRow(row) {
    const { look } = this;
    const role = look.lines.findLast((l) => l.row < row.row)?.role ?? look.lines[0]?.role ?? this.scene.members[0]?.roleName ?? "Speaker";
    const at = look.lines.findIndex((l) => l.row > row.row);
    const scene = (at > 0 ? look.lines[at - 1] : look.lines.at(-1))?.scene ?? 0;
    const line = {
      key: row.key,
      row: row.row,
      scene,
      role,
      text: row.text,
      direction: null,
      mood: null,
      delivery: null,
      gestures: [],
      looks: [],
      isOffStage: false,
      isTogether: false,
      isIn: true,
    };
    look.lines.splice(at < 0 ? look.lines.length : at, 0, line);
    look.unspoken = look.unspoken.filter((u) => u !== row);
    if (!look.roles.some((r) => r.role.toLowerCase() === role.toLowerCase())) this.addRole(role);
  },
  castRole(role, event) {
    role.member = event.target.value;
    const member = this.scene.members.find((m) => m.id === role.member);
    if (member) Object.assign(role, { character: member.character, voice: member.voice });
  },
  nameOfVoice(key) {
    return voiceName(this.voices, key);
  },
  hearRole(role) {
    const line = this.look.lines.find((l) => l.role.toLowerCase() === role.role.toLowerCase());
    return this.hearVoiceOf(role.voice, line?.text);
  },
  // As it was looked through.
  lookedScript() {
    const parts = this.look.lines.filter((l) => l.isIn).map(({ scene, role, text, isOffStage, isTogether }) => ({ scene, role, text, isOffStage, isTogether }));
    const cast = this.look.roles.map((r) => ({ role: r.role, member: r.member || null, character: r.character, voice: r.member ? null : r.voice }));
    return { text: "", parts, cast, scenes: this.look.scenes };
  },
  get hasLines() {
    return this.sceneList.some((s) => s.lines > 0);
  },
  compareScript() {
    this.$dispatch("compare-script", this.lookedScript());
  },
  async takeScript() {
    this.isTakingScript = true;
    this.lookError = "";
    const order = this.lookedScript();
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/script`, { revision: this.revision, ...order }));
    this.isTakingScript = false;
    if (!done) return void (this.lookError = this.error);
    drafts.drop(`voice:${this.scene.production.id}`);
    this.$dispatch("script-taken");
    this.say(`${done.lines === 1 ? "One line" : `${done.lines} lines`}, ${done.members} new in the cast.`);
  },
});
