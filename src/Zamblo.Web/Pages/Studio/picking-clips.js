// Which clips are picked, and where something new is laid.
import { post } from "../../front/api.js";
import { player, score } from "./shared.js";

export const pickingClips = () => ({
  get clip() {
    return this.scene?.clips.find((c) => c.id === this.clipId) ?? null;
  },
  // With Ctrl held a clip joins those that are picked already.
  pickClip(id, more = false) {
    const ids = !id ? [] : !more ? [id] : this.clipIds.includes(id) ? this.clipIds.filter((i) => i !== id) : [...this.clipIds, id];
    this.clipIds = ids;
    this.clipId = ids.at(-1) ?? null;
    if (this.clipId) this.turnFor(["shot", "light"].includes(this.clip?.kind) ? this.clip.kind : "clip");
    if (!score.view) return;
    score.view.clip = this.clipId;
    score.view.clips = new Set(ids);
  },
  // Where something new goes: what is picked, else the selected line, else two seconds from the playhead.
  get target() {
    const line = this.pickedLine;
    if (line && this.picked.range) return { member: line.member, start: line.start + this.picked.range.start, end: line.start + this.picked.range.end };
    if (line && this.pickedWord) return { member: line.member, start: line.start + this.pickedWord[1], end: line.start + this.pickedWord[2], isWord: true };
    const whole = this.line;
    if (whole && whole.start !== null && whole.member === this.selectedMember) {
      const spoken = whole.phones?.length ? [whole.phones[0][1], whole.phones.at(-1)[2]] : [0, whole.duration];
      return { member: whole.member, start: whole.start + spoken[0], end: whole.start + spoken[1], isLine: true };
    }
    const t = player.position;
    return { member: this.selectedMember, start: t, end: t + 2, isHere: true };
  },
  async layClip(order, say) {
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }), say);
    if (!done) return;
    this.unpick();
    this.pickClip(done.id);
  },
  get lookChoices() {
    const others = (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember).map((m) => ({ key: m.id, name: m.roleName }));
    return [
      { key: "camera", name: "The camera" },
      ...others,
      { key: "left", name: "To the left" },
      { key: "right", name: "To the right" },
      { key: "up", name: "Up" },
      { key: "down", name: "Down" },
    ];
  },
  clipId: null,
  clipIds: [],
  // Copies: of a mouth, for this scene; of a clip, kept by the browser for other scenes and productions as well. The newest is what Ctrl+V lays.
  clipboard: null,
  clipCopy: JSON.parse(localStorage.getItem("clip") ?? "null"),
});
