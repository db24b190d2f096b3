// Where a scene plays: its set, chosen by looking, or a picture of one's own.
import { patch, post } from "../../front/api.js";

export const setPanel = () => ({
  setSought: "",
  get setName() {
    if (this.isOwnSet) return this.isClipSet ? "A clip of your own" : "A picture of your own";
    return this.scene.scene.backdrops.find((b) => b.key === this.scene.scene.backdrop)?.name ?? "";
  },
  get setCards() {
    const text = this.setSought.trim().toLowerCase();
    return (this.scene?.scene.backdrops ?? [])
      .filter((b) => !text || b.name.toLowerCase().includes(text))
      .map((b) => ({ ...b, isNow: b.key === this.scene.scene.backdrop }));
  },
  // A picture of one's own is written in its key: its hash, size, edge, how it lies, how much darker it is, how far out of focus, where it is; of a clip its
  // frames; and, where it is moved, "m" with how far to the right, down, and how large it is.
  get ownParts() {
    const parts = this.scene?.scene.backdrop.split(":") ?? [];
    if (parts[0] !== "picture" && parts[0] !== "clip") return null;
    const moved = parts.at(-1).startsWith("m") ? parts.pop() : "m0,0,100";
    return [...(parts[0] === "clip" ? parts : [...parts, "0"].slice(0, 7)), moved];
  },
  get isClipSet() {
    return this.ownParts?.[0] === "clip";
  },
  get isOwnSet() {
    return this.ownParts !== null;
  },
  get isWholeSet() {
    return this.ownParts?.[4] === "whole";
  },
  get darkerSet() {
    return Number(this.ownParts?.[5] ?? 0);
  },
  // Made when its turn has come: two that are turned quickly do not undo each other.
  changeOwn(change) {
    return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, backdrop: change(this.ownParts).join(":") }));
  },
  wholeSet(event) {
    const whole = event.target.checked ? "whole" : "fill";
    return this.changeOwn((parts) => parts.with(4, whole));
  },
  darkenSet({ target: { value } }) {
    return this.changeOwn((parts) => parts.with(5, value));
  },
  get blurredSet() {
    return Number(this.ownParts?.[6] ?? 0);
  },
  blurSet({ target: { value } }) {
    return this.changeOwn((parts) => parts.with(6, value));
  },
  get movedSet() {
    return this.ownParts?.at(-1).slice(1).split(",").map(Number) ?? [0, 0, 100];
  },
  get movesOfSet() {
    const [right, down, size] = this.movedSet;
    return [
      { at: 2, name: "Larger", min: this.isWholeSet ? 50 : 100, max: 400, step: 5, value: size },
      { at: 0, name: "Across", min: -100, max: 100, step: 1, value: right },
      { at: 1, name: "Down", min: -100, max: 100, step: 1, value: down },
    ];
  },
  moveSet({ at }, { target: { value } }) {
    return this.changeOwn((parts) => parts.with(-1, `m${this.movedSet.with(at, Number(value)).join()}`));
  },
  ownSet(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    this.closeSets();
    // A clip is taken apart first: that takes about a tenth of its length.
    const isClip = file.type.startsWith("video/") || file.type === "image/gif";
    if (isClip) this.say(`${file.name} is being taken apart.`, false);
    return this.attempt(async () => {
      const { set } = await post(`/api/${isClip ? "plates/sets" : "pictures"}?name=${encodeURIComponent(file.name)}`, file);
      await this.changeScene({ backdrop: set });
    });
  },
  openSets() {
    this.setSought = "";
    this.$refs.sets.showModal();
  },
  closeSets() {
    this.$refs.sets.close();
  },
  takeSet(set) {
    this.closeSets();
    if (!set.isNow) return this.changeScene({ backdrop: set.key });
  },
});
