// A prop in a hand: from a word of a line to the end of it, over a stretch, or from the playhead on.
import { post } from "../../front/api.js";

// From the playhead on it is held so long, in seconds.
const aWhile = 4;

export const propHands = () => ({
  heldBy: null,
  whichHand: "right",
  get holder() {
    const ids = (this.scene?.members ?? []).map((m) => m.id);
    return [this.heldBy, this.selectedMember, ids[0]].find((id) => ids.includes(id)) ?? "";
  },
  set holder(id) {
    this.heldBy = id;
  },
  // When it is taken and put down: what is picked says so.
  get holdSpan() {
    const { start, end, isWord, isHere } = this.target;
    const line = this.pickedLine;
    return { start, end: isHere ? start + aWhile : isWord ? Math.max(end, line.start + line.duration) : end };
  },
  get holdText() {
    const { isWord, isLine, isHere } = this.target;
    return isHere ? "Take it at the playhead" : isLine ? "Hold it over the line" : isWord ? `Take it at “${this.pickedWord[0]}”` : "Hold it over the stretch";
  },
  get holds() {
    const who = (id) => this.scene.members.find((m) => m.id === id)?.roleName ?? "";
    return this.scene.clips
      .filter((c) => c.prop === this.propId)
      .sort((a, b) => a.start - b.start)
      .map((c) => ({ id: c.id, text: `${who(c.member)}, ${c.start.toFixed(1)} to ${c.end.toFixed(1)} s, ${c.right ? "right" : "left"}` }));
  },
  putInHand() {
    const order = { member: this.holder, kind: "Hold", prop: this.propId, right: this.whichHand === "right", ...this.holdSpan };
    const name = this.scene.members.find((m) => m.id === order.member)?.roleName;
    const say = `${name} holds it from ${order.start.toFixed(1)} to ${order.end.toFixed(1)} s.`;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }), say);
  },
  letItGo(id) {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/clips/delete`, { revision: this.revision, ids: [id] }), "Not in the hand.");
  },
});
