// Frames of clips as they are needed: fetched a little ahead in the direction that they go, the last ones kept.
const kept = 90;
const ahead = 12;

export class ClipFrames {
  // Says when a frame has come that was wanted.
  constructor(onArrival, base) {
    this.onArrival = onArrival;
    this.base = base;
    this.frames = new Map();
    this.before = new Map();
  }

  // The picture of a frame, or null while it is on the way.
  get(clip, frame, count) {
    const before = this.before.get(clip) ?? frame;
    const way = frame < before ? -1 : 1;
    this.before.set(clip, frame);
    for (let next = frame + way; next >= 0 && next < count && Math.abs(next - frame) <= ahead; next += way) this.ask(clip, next, false);
    const key = `${clip}/${frame}`;
    const there = this.ask(clip, frame, true);
    // Used last, let go of last.
    this.frames.delete(key);
    this.frames.set(key, there);
    while (this.frames.size > kept) this.frames.delete(this.frames.keys().next().value);
    return there.picture;
  }

  ask(clip, frame, isWanted) {
    const key = `${clip}/${frame}`;
    let entry = this.frames.get(key);
    if (!entry) {
      entry = { picture: null, isWanted };
      this.frames.set(key, entry);
      this.fetch(clip, frame, entry);
    }
    entry.isWanted ||= isWanted;
    return entry;
  }

  async fetch(clip, frame, entry) {
    try {
      const answer = await fetch(`${this.base}/plates/${clip}/frames/${frame}`);
      if (!answer.ok) return;
      entry.picture = await createImageBitmap(await answer.blob());
      if (entry.isWanted) this.onArrival();
    } catch {
      this.frames.delete(`${clip}/${frame}`);
    }
  }
}
