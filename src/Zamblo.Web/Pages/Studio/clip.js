// The picked clip, or several: its manner and its place.
import { patch, post } from "../../front/api.js";
import { clipCopies } from "./clip-copies.js";
import { clipFootage } from "./clip-footage.js";
import { mix } from "./mix.js";
import { act, onKey, player } from "./shared.js";

const clips = () => ({
  get clipText() {
    const c = this.clip;
    return c ? `${c.title}, ${(c.end - c.start).toFixed(2)} s` : "";
  },
  get clipSpeed() {
    const c = this.clip;
    return c?.kind === "gesture" ? `Speed ${Math.round(c.speed * 100)} %` : "";
  },
  changeClip(change, say) {
    const { id } = this.clip;
    return this.edit(() => patch(`/api/clips/${id}`, { revision: this.revision, ...change }), say);
  },
  // A step from what it is when its turn has come.
  stepClip(change) {
    const { id } = this.clip;
    return this.edit(() => {
      const clip = this.scene.clips.find((c) => c.id === id);
      return clip ? patch(`/api/clips/${id}`, { revision: this.revision, ...change(clip) }) : {};
    });
  },
  turnClip(event) {
    const { id } = this.clip;
    const { key } = event.target.dataset;
    const value = Number(event.target.value);
    return this.letGo(`${id}${key}`, value, () => patch(`/api/clips/${id}`, { revision: this.revision, [key]: value }));
  },
  holdClip(event) {
    this.hold(`${this.clip.id}${event.target.dataset.key}`, Number(event.target.value));
  },
  heldOf(key) {
    return this.clip ? (this.held[`${this.clip.id}${key}`] ?? this.clip[key]) : 0;
  },
  get strengthOfClip() {
    return this.heldOf("strength");
  },
  get easeOfClip() {
    return this.heldOf("ease");
  },
  get walkOfClip() {
    return this.heldOf("walkTo");
  },
  setClipHand(event) {
    return this.changeClip({ right: event.target.value === "right" });
  },
  setClipReplaces(event) {
    return this.changeClip({ replaces: event.target.checked });
  },
  setClipMark(event) {
    const mark = event.target.value;
    return this.changeClip(mark ? { mark } : { walkTo: this.clip.walkTo });
  },
  setClipStretches(event) {
    return this.changeClip({ stretches: event.target.checked });
  },
  setBlend(key, event) {
    return this.changeClip({ [key]: Number(event.target.value) });
  },
  walkManners: [
    { key: "walk", name: "Walks" },
    { key: "stroll", name: "Strolls" },
    { key: "tiptoe", name: "On tiptoe" },
    { key: "run", name: "Runs" },
    { key: "hop", name: "Hops" },
  ],
  get walkText() {
    const x = this.walkOfClip;
    return x < 0 ? "off to the left" : x > 1280 ? "off to the right" : `${Math.round((100 * x) / 1280)} % across`;
  },
  setClipLoops(event) {
    return this.changeClip({ loops: Number(event.target.value) });
  },
  setClipMirror(event) {
    return this.changeClip({ mirror: event.target.checked });
  },
  setClipName(event) {
    return this.changeClip({ name: event.target.value });
  },
  splitClip() {
    const { id } = this.clip;
    const at = player.position;
    return this.edit(() => post(`/api/clips/${id}/split`, { revision: this.revision, at }), "Split at the playhead.");
  },
  deleteClips() {
    const { title } = this.clip;
    const ids = this.clipIds;
    return this.edit(
      async () => {
        await post(`/api/scenes/${this.sceneId}/clips/delete`, { revision: this.revision, ids });
        this.pickClip(null);
      },
      ids.length > 1 ? `${ids.length} clips deleted.` : `${title} deleted.`,
    );
  },
  joinClips() {
    return this.edit(async () => {
      const { id } = await post(`/api/scenes/${this.sceneId}/clips/join`, { revision: this.revision, ids: this.clipIds });
      this.pickClip(id);
    }, "Joined into one.");
  },
  lineUpClips() {
    return this.edit(
      () => post(`/api/scenes/${this.sceneId}/clips/line-up`, { revision: this.revision, ids: this.clipIds, gapFrames: Number(this.clipGap) }),
      "One after the other.",
    );
  },
  clipGap: 0,
  unpickClip() {
    this.pickClip(null);
  },
  clipKey({ name, control, alt }) {
    if (control && name === "v" && this.clipCopy && !this.clipboard) return (this.pasteClip(), true);
    if (!this.clip) return false;
    if (control) return act({ c: () => this.copyClip() }, name);
    if (this.clip.kind === "footage" && this.paceKey(name)) return true;
    const most = this.clip.kind === "mood" ? 1.5 : 2;
    const frame = 1 / this.scene.fps;
    return act(
      {
        Delete: () => this.deleteClips(),
        Backspace: () => this.deleteClips(),
        s: () => this.splitClip(),
        Escape: () => this.pickClip(null),
        ArrowUp: () => this.stepClip((clip) => ({ strength: Math.min(most, clip.strength + 0.1) })),
        ArrowDown: () => this.stepClip((clip) => ({ strength: Math.max(0, clip.strength - 0.1) })),
        ...(alt ? { ArrowLeft: () => this.stepClip(() => ({ by: -frame })), ArrowRight: () => this.stepClip(() => ({ by: frame })) } : {}),
      },
      name,
    );
  },
  init() {
    onKey(10, (key) => this.clipKey(key));
  },
});

export const clipPanel = () => mix(clips(), clipCopies(), clipFootage());
