// A clip along a strip: what is seen in it, how well each of its faces is, and which part is played. Its ends are dragged or go by keys.
const thumbs = 12;
const shortest = 0.4;

const names = {
  Good: "well seen",
  Gone: "not seen",
  Turned: "turned away",
  Covered: "something before the mouth",
  Fast: "moves fast",
  Blurred: "out of focus",
  Dark: "hardly any light",
};

const percent = (share) => `${(100 * share).toFixed(3)}%`;
const tenth = (seconds) => Math.round(10 * seconds) / 10;

export const mapping = () => ({
  // In seconds of the clip; and which end is held, with where it is.
  lookedFrom: 0,
  heldEnd: "",
  frameOfClip(seconds) {
    return Math.max(0, Math.min(this.clip.frames - 1, Math.floor((seconds / this.clip.seconds) * this.clip.frames)));
  },
  pictureOfClip(frame) {
    return `/api/plates/${this.clip.clip}/frames/${frame}`;
  },
  get clipThumbs() {
    if (!this.isClipReady) return [];
    return Array.from({ length: thumbs }, (_, i) => this.pictureOfClip(this.frameOfClip(((i + 0.5) / thumbs) * this.clip.seconds)));
  },
  get lookedAt() {
    if (!this.isClipReady) return { picture: null, name: "" };
    return { picture: this.pictureOfClip(this.frameOfClip(this.lookedFrom)), name: `The clip at ${this.lookedFrom.toFixed(1)} s` };
  },
  get clipPart() {
    if (!this.isClipReady) return { before: {}, after: {}, at: {}, from: {}, to: {} };
    const { from, to, seconds } = this.clip;
    const [a, b] = [from / seconds, (to || seconds) / seconds];
    return {
      before: { width: percent(a) },
      after: { width: percent(1 - b) },
      at: { left: percent(Math.min(1, this.lookedFrom / seconds)) },
      from: { left: percent(a) },
      to: { left: percent(b) },
    };
  },
  get clipMaps() {
    if (!this.isClipReady) return [];
    const { maps, seconds } = this.clip;
    return maps.map((map, i) => ({
      name: maps.length === 1 ? "Face" : `Face ${i + 1}`,
      stretches: map.map((s) => ({
        ...s,
        place: { left: percent(s.start / seconds), width: percent((s.end - s.start) / seconds) },
        text: `From ${s.start.toFixed(1)} to ${s.end.toFixed(1)} s: ${names[s.sight]}`,
      })),
    }));
  },
  get clipLegend() {
    const there = new Set(this.clipMaps.flatMap((m) => m.stretches.map((s) => s.sight)));
    return Object.keys(names)
      .filter((sight) => there.has(sight))
      .map((sight) => ({ sight, name: names[sight] }));
  },
  lookAtClip(seconds) {
    this.lookedFrom = Math.max(0, Math.min(this.clip.seconds, seconds));
  },
  secondsUnder(event) {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(1, (event.clientX - left) / width)) * this.clip.seconds;
  },
  pressClip(event) {
    this.heldEnd = event.target.dataset.end ?? "";
    event.currentTarget.setPointerCapture(event.pointerId);
    this.lookAtClip(this.secondsUnder(event));
  },
  overClip(event) {
    const at = this.secondsUnder(event);
    this.lookAtClip(at);
    if (this.heldEnd) Object.assign(this.clip, this.movedEnd(this.heldEnd, at));
  },
  letClipGo() {
    const end = this.heldEnd;
    this.heldEnd = "";
    return end ? this.playClip({ [end]: this.clip[end] }) : null;
  },
  // An end goes no nearer to the other one than a part may be short.
  movedEnd(end, at) {
    const { from, to, seconds } = this.clip;
    if (end === "from") return { from: tenth(Math.max(0, Math.min(at, (to || seconds) - shortest))) };
    const later = Math.min(seconds, Math.max(at, from + shortest));
    return { to: later >= seconds - 0.02 ? 0 : tenth(later) };
  },
  nudgeClip(event) {
    const by = { ArrowLeft: -0.1, ArrowRight: 0.1, PageDown: -1, PageUp: 1, Home: -1e6, End: 1e6 }[event.key];
    if (!by) return null;
    event.preventDefault();
    const { end } = event.currentTarget.dataset;
    const moved = this.movedEnd(end, (this.clip[end] || (end === "to" ? this.clip.seconds : 0)) + by);
    Object.assign(this.clip, moved);
    this.lookAtClip(moved[end] || (end === "to" ? this.clip.seconds : 0));
    return this.playClip(moved);
  },
});
