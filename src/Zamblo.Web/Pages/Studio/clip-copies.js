// Copies of a clip: onto another place, member or production, and into the library.
import { get, post } from "../../front/api.js";
import { player } from "./shared.js";

export const clipCopies = () => ({
  saveGesture() {
    return this.attempt(async () => {
      await post(`/api/clips/${this.clip.id}/save`, { name: this.clip.title });
      window.dispatchEvent(new Event("gestures-changed"));
      this.say(`${this.clip.title} is in the library, for any character.`, false);
    });
  },
  async copyClip() {
    const copied = { ...this.clip };
    if (copied.isOwn) copied.motion = await this.attempt(() => get(`/api/clips/${copied.id}/motion`));
    localStorage.setItem("clip", JSON.stringify(copied));
    this.clipCopy = copied;
    // The newest copy is what Ctrl+V lays.
    this.clipboard = null;
    this.say(`${this.clip.title} copied; Ctrl+V lays it at the playhead of the selected member.`, false);
  },
  pasteClip() {
    const c = this.clipCopy;
    const start = player.position;
    return this.layClip(
      {
        member: this.selectedMember,
        kind: c.kind[0].toUpperCase() + c.kind.slice(1),
        name: c.name,
        own: c.motion ?? null,
        replaces: c.replaces,
        stretches: c.stretches ?? null,
        walkTo: c.walkTo,
        walkFrom: c.walkFrom,
        mark: this.scene.scene.marks.find((m) => m.id === c.mark)?.id ?? null,
        prop: c.prop ?? null,
        right: c.right ?? null,
        speed: c.speed ?? null,
        move: c.move ?? null,
        change: c.change ?? null,
        over: c.over ?? null,
        start,
        end: start + c.end - c.start,
        strength: c.strength,
        mirror: c.mirror,
        loops: c.loops,
        ease: c.ease,
        from: c.from,
        to: c.to,
      },
      `${c.title} laid on the score.`,
    );
  },
});
