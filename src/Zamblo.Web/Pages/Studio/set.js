// Where a scene plays: its set, chosen by looking, or a picture of one's own.
import { post } from "../../front/api.js";

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
  // A picture of one's own is written in its key: its hash, size, edge, how it lies, how much darker it is, and how far out of focus, where it is.
  get ownParts() {
    const parts = this.scene?.scene.backdrop.split(":") ?? [];
    return parts[0] === "picture" ? [...parts, "0"].slice(0, 7) : parts[0] === "clip" ? parts : null;
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
  changeOwn(at, value) {
    return this.changeScene({ backdrop: this.ownParts.with(at, value).join(":") });
  },
  wholeSet(event) {
    return this.changeOwn(4, event.target.checked ? "whole" : "fill");
  },
  darkenSet(event) {
    return this.changeOwn(5, event.target.value);
  },
  get blurredSet() {
    return Number(this.ownParts?.[6] ?? 0);
  },
  blurSet(event) {
    return this.changeOwn(6, event.target.value);
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
