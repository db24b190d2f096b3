// Acting: moods, gestures, looks and walks are laid on what is picked.
import { get, post, remove } from "../../front/api.js";
import { StagePainter } from "../../front/stage.js";
import { player } from "./shared.js";

// Kept out of the component: Alpine would wrap frames in proxies.
const preview = { painter: null, frames: new Map(), shapesOf: "", timer: 0 };

export const actingPanel = () => ({
  gestures: [],
  gesturePart: "all",
  previewOf: "",
  get targetText() {
    if (!this.member) return "";
    const t = this.target;
    const where = t.isHere ? "from the playhead" : t.isLine ? "on the line" : t.isWord ? `on “${this.pickedWord[0]}”` : "on the stretch";
    return `${this.member.roleName}, ${where}`;
  },
  layMood(name) {
    const { member, start, end } = this.target;
    return this.layClip({ member, kind: "Mood", name, start, end }, `${name} laid on the score.`);
  },
  layGesture(gesture) {
    const t = this.target;
    // On a word the stroke falls on its strongest syllable; else at the playhead.
    const line = this.scene.lines.find((l) => l.id === (this.pickedLine ?? this.line)?.id);
    const within = (line?.accents ?? []).map(([time, size]) => [line.start + time, size]).filter(([time]) => time >= t.start && time <= t.end);
    const accent = within.sort((a, b) => b[1] - a[1])[0]?.[0];
    const at = t.isWord ? (accent ?? (t.start + t.end) / 2) : player.position;
    return this.layClip({ member: t.member, kind: "Gesture", name: gesture.key, start: at, at }, `${gesture.name} laid on the score.`);
  },
  layLook(look) {
    const { member, start, end } = this.target;
    return this.layClip({ member, kind: "Look", name: look.key, start, end }, `Looks to ${look.name.replace(/^The|^To the/, (x) => x.toLowerCase())}.`);
  },
  get walkChoices() {
    return [
      ...this.scene.scene.marks.map(({ id, name }) => ({ name: `To ${name}`, mark: id })),
      { name: "To the left", to: 240 },
      { name: "To the middle", to: 640 },
      { name: "To the right", to: 1040 },
      { name: "Enters from the left", from: -240 },
      { name: "Enters from the right", from: 1520 },
      { name: "Off to the left", to: -240 },
      { name: "Off to the right", to: 1520 },
    ];
  },
  layWalk(walk) {
    // How long it takes, and where the member's own place is, the server knows.
    const order = { member: this.selectedMember, kind: "Walk", name: "walk", start: player.position };
    return this.layClip({ ...order, walkTo: walk.to ?? null, walkFrom: walk.from ?? null, mark: walk.mark ?? null }, `${walk.name}.`);
  },
  // What is shown there then stays as it is, until it is moved, trimmed or paced.
  layFootage() {
    const { member, start, end } = this.target;
    return this.layClip({ member, kind: "Footage", start, end }, "The clip can be moved, trimmed and paced there.");
  },
  async suggestMoods() {
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/moods/suggest`, { revision: this.revision }));
    if (!done) return;
    this.say(
      done.count === 0 ? "Neither words nor voice suggest a mood where none is yet." : `${done.count} moods suggested; each can be changed or deleted.`,
      done.count > 0,
    );
  },
  async loadGestures() {
    if (!this.gestures.length) await this.attempt(async () => (this.gestures = await get("/api/gestures")));
  },
  get gestureChoices() {
    const mood = this.clip?.kind === "mood" ? this.clip.name.toLowerCase() : "";
    // What only fingers can say is offered to hands.
    const able = this.gestures.filter((g) => !g.needsHands || this.member?.hasHands);
    return able.filter((g) => this.gesturePart === "all" || g.part === this.gesturePart || (this.gesturePart === "mood" && mood && g.moods.includes(mood)));
  },
  // A gesture under the pointer is shown, again and again, by the member that it would go to.
  async showGesture(gesture) {
    const character = this.member?.character;
    const key = `${character}/${gesture.key}`;
    this.previewOf = key;
    const canvas = this.$refs.gesturePreview;
    preview.painter ??= new StagePainter(canvas);
    if (!preview.frames.has(key)) {
      const data = await this.attempt(() => get(`/api/characters/${character}/gestures/${gesture.key}`));
      if (!data) return;
      let items = [];
      preview.frames.set(
        key,
        data.frames.map((changes) => {
          items = items.slice();
          for (const change of changes) items[change[0]] = change;
          return items;
        }),
      );
    }
    if (preview.shapesOf !== character) {
      await preview.painter.load(`/api/characters/${character}/preview-shapes`);
      preview.shapesOf = character;
    }
    if (this.previewOf !== key) return;
    const list = preview.frames.get(key);
    const begun = performance.now();
    cancelAnimationFrame(preview.timer);
    const tick = () => {
      if (this.previewOf !== key) return;
      preview.painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
      preview.painter.drawNew(list[Math.floor(((performance.now() - begun) / 1000) * 25) % list.length]);
      preview.timer = requestAnimationFrame(tick);
    };
    tick();
  },
  dropGesture(gesture) {
    return this.attempt(async () => {
      await remove(`/api/gestures/${gesture.key.slice("saved:".length)}`);
      this.gestures = await get("/api/gestures");
      this.say(`${gesture.name} is out of the library; clips that have it keep it.`, false);
    });
  },
  hideGesture() {
    this.previewOf = "";
  },
  init() {
    window.addEventListener("gestures-changed", () => this.freshGestures());
  },
  async freshGestures() {
    if (this.gestures.length) await this.attempt(async () => (this.gestures = await get("/api/gestures")));
  },
});
