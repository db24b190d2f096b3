// A part of a filmed clip: what of it is shown first, and how fast it goes.
export const clipFootage = () => ({
  get lengthOfFilmed() {
    return this.scene?.members.find((m) => m.id === this.clip?.member)?.filmed ?? 0;
  },
  get fromOfClip() {
    return this.heldOf("from");
  },
  get fromText() {
    return this.fromOfClip > this.lengthOfFilmed ? "on its way back" : `${this.fromOfClip.toFixed(2)} s`;
  },
  get paceOfClip() {
    return this.heldOf("speed");
  },
  get paceText() {
    return this.paceOfClip ? `${Math.round(this.paceOfClip * 100)} %` : "held frame";
  },
  // Up and Down make it faster and slower by a twentieth.
  paceKey(name) {
    const by = { ArrowUp: 0.05, ArrowDown: -0.05 }[name];
    if (!by) return false;
    this.stepClip((clip) => ({ speed: Math.min(4, Math.max(0, Math.round((clip.speed + by) * 100) / 100)) }));
    return true;
  },
});
