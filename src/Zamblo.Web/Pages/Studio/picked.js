// What is picked of a mouth: shapes, strength, time, copies.
import { post } from "../../front/api.js";
import { mix } from "./mix.js";
import { pickedMoves } from "./picked-moves.js";
import { pickedWord } from "./picked-word.js";
import { act, onKey } from "./shared.js";

// Keys of the fourteen shapes, in the order of the picker.
const shapeKeys = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "a", "e", "w", "r", "u"];

const pickedShapes = () => ({
  strengthShown: 1,
  get shapeChoices() {
    const character = this.scene?.members.find((m) => m.id === this.pickedLine?.member)?.character;
    const now = this.pickedCues;
    if (!character) return [];
    return this.scene.shapes.map((name, i) => ({
      name,
      key: shapeKeys[i].toUpperCase(),
      picture: `/api/characters/${character}/mouths/${name}`,
      isNow: now.length > 0 && now.every((c) => c[4] === name),
    }));
  },
  get meanStrength() {
    const cues = this.pickedCues.filter((c) => c[4] !== "Rest");
    return cues.length ? cues.reduce((sum, c) => sum + c[3], 0) / cues.length : 1;
  },
  get isTouched() {
    return this.pickedCues.some((c) => c[6]);
  },
  // What is picked is read when the edit's turn has come: the one before may have changed it.
  editCues(operation, extra = {}) {
    return this.touch(() => {
      const { line, cues } = this.picked;
      return line && cues.length ? post(`/api/lines/${line}/cues`, { revision: this.revision, operation, cues: [...cues], ...extra }) : {};
    });
  },
  setShape(name) {
    if (this.picked.cues.length) return this.editCues("Shape", { shape: name });
    return this.putShape(name);
  },
  // A shape, or a shut mouth, where a stretch is picked.
  putShape(shape) {
    const { line, range } = this.picked;
    if (!line || !range) return;
    return this.touch(() => post(`/api/lines/${line}/shape`, { revision: this.revision, shape, start: range.start, end: range.end }));
  },
  shutMouth() {
    if (this.picked.range) return this.putShape("Rest");
    const cues = this.pickedCues;
    if (!cues.length) return;
    const { line } = this.picked;
    return this.touch(() =>
      post(`/api/lines/${line}/shape`, {
        revision: this.revision,
        shape: "Rest",
        start: Math.min(...cues.map((c) => c[1])),
        end: Math.max(...cues.map((c) => c[2])),
      }),
    );
  },
  setStrength(event) {
    const by = Number(event.target.value) / Math.max(0.05, this.meanStrength);
    return this.editCues("Strength", { by });
  },
  strengthen() {
    return this.editCues("Strength", { by: 1.15 });
  },
  weaken() {
    return this.editCues("Strength", { by: 1 / 1.15 });
  },
  nudge(direction) {
    return this.editCues("Move", { by: direction / this.scene.fps });
  },
  takeOut() {
    return this.editCues("Remove");
  },
  resetCues() {
    return this.editCues("Reset");
  },
  get strengthText() {
    return `${Math.round(this.strengthShown * 100)} %`;
  },
  showStrength(event) {
    this.strengthShown = Number(event.target.value);
    this.tryEdit("Strength", { by: this.strengthShown / Math.max(0.05, this.meanStrength) });
  },
  tryShape(name) {
    return this.tryEdit("Shape", { shape: name });
  },
  // Shows on the stage what an edit would do in this frame; nothing is kept.
  tryEdit(operation, extra) {
    const { line, cues } = this.picked;
    if (line && cues.length) return this.tryFrame({ line, operation, cues: [...cues], ...extra });
  },
  handKey({ name, control, alt }) {
    const picked = this.picked.cues.length > 0;
    if (control)
      return act({ a: () => this.pickLine(), c: () => (this.hasPick ? this.copyPick() : null), v: () => (this.clipboard ? this.paste() : null) }, name);
    if (name === "," || name === ".") return (this.stepCue(name === "." ? 1 : -1), true);
    if (name === "Escape" && this.hasPick) return (this.unpick(), true);
    if (!picked && !this.picked.range) return false;
    const shape = shapeKeys.indexOf(name);
    if (shape >= 0) return (this.setShape(this.scene.shapes[shape]), true);
    const map = { m: () => this.shutMouth(), Enter: () => this.playPick() };
    if (picked)
      Object.assign(map, {
        Delete: () => this.takeOut(),
        Backspace: () => this.resetCues(),
        ArrowUp: () => this.strengthen(),
        ArrowDown: () => this.weaken(),
        ...(alt ? { ArrowLeft: () => this.nudge(-1), ArrowRight: () => this.nudge(1) } : {}),
      });
    return act(map, name);
  },
  init() {
    window.addEventListener("picked", () => this.readPick());
    onKey(20, (key) => this.handKey(key));
  },
  readPick() {
    const word = this.pickedWord;
    if (!word && this.picked.word >= 0) return;
    // What is being typed is the hand's.
    const typing = document.activeElement?.id;
    if (typing !== "word-text") this.wordDraft = word?.[0] ?? "";
    const known = this.respellingOf(word?.[0] ?? "");
    if (typing !== "word-sound") this.soundDraft = known?.written ?? "";
    this.heardAs = known?.phones ?? this.phonesOfWord.map((p) => p[0]).join(" ");
    this.strengthShown = this.meanStrength;
  },
});

export const pickedPanel = () => mix(pickedShapes(), pickedMoves(), pickedWord());
