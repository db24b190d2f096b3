// Plays the sound of a scene. The audio clock is the master: the time shown is read from it, never counted.
// The sound comes in pieces, and only those that are about to be heard: an hour opens as fast as a minute.
const piece = 20;
const sampleRate = 48000;
// So far ahead, in seconds, pieces are handed to the sound card, and so often somebody looks whether it is time.
const ahead = 0.8;
const beat = 200;

export class Player {
  constructor() {
    this.context = null;
    this.position = 0;
    this.duration = 0;
    this.loop = null;
    this.rate = 1;
    // Below 1 a slower sound with its pitch kept is played.
    this.speed = 1;
    this.run = null;
    this.pieces = new Map();
    this.onStop = () => {};
    this.onError = () => {};
  }

  // url(from, to, speed) gives the address of a piece; key changes when what is heard has changed.
  load(url, duration, key) {
    this.duration = duration;
    this.position = Math.min(this.position, duration);
    this.url = url;
    this.context ??= new AudioContext({ sampleRate });
    if (this.key === key) return;
    const again = this.playing ? this.rate : 0;
    this.pause();
    this.key = key;
    this.pieces.clear();
    this.fetchPiece(this.pieceAt(this.position)).catch(() => {});
    if (again) this.play(again);
  }

  setSpeed(speed) {
    if (speed === this.speed) return;
    const again = this.playing;
    this.pause();
    this.speed = speed;
    this.pieces.clear();
    this.fetchPiece(this.pieceAt(this.position)).catch(() => {});
    if (again) this.play();
  }

  pieceAt(t) {
    return Math.floor(t / piece + 1e-9);
  }

  async fetchPiece(n) {
    const from = n * piece;
    if (from >= this.duration) return null;
    if (!this.pieces.has(n)) {
      const loading = (async () => {
        const response = await fetch(this.url(from, from + piece, this.speed)).catch(() => {
          throw new Error("The server does not answer: the sound stops here. Check that Zamblo is still running, then play again.");
        });
        if (!response.ok) throw new Error("The sound of this scene could not be loaded.");
        return this.context.decodeAudioData(await response.arrayBuffer());
      })();
      this.pieces.set(n, loading);
      loading.then(
        (buffer) => this.pieces.get(n) === loading && this.pieces.set(n, buffer),
        () => this.pieces.get(n) === loading && this.pieces.delete(n),
      );
      // Those far away are forgotten.
      if (this.pieces.size > 8) for (const other of this.pieces.keys()) if (Math.abs(other - n) > 4) this.pieces.delete(other);
    }
    return this.pieces.get(n);
  }

  // Whether the sound around the playhead is there.
  get isLoaded() {
    return this.pieces.get(this.pieceAt(Math.min(this.position, this.duration - 1e-3))) instanceof AudioBuffer;
  }

  get playing() {
    return this.run !== null;
  }

  // Seconds of the scene that are heard right now.
  get time() {
    if (!this.run) return this.position;
    const now = this.context.currentTime - (this.context.outputLatency || 0);
    let heard = null;
    for (const s of this.run.segments) if (s.when <= now) heard = s;
    if (!heard) return this.run.from;
    return Math.min(heard.from + Math.min(now - heard.when, heard.length) * this.rate * this.speed, this.duration);
  }

  play(rate = 1) {
    if (!this.url) return;
    this.pause();
    this.context.resume();
    this.rate = rate;
    if (this.position >= this.duration - 0.02) this.position = this.loop?.start ?? 0;
    if (this.loop && (this.position < this.loop.start || this.position >= this.loop.end)) this.position = this.loop.start;
    const run = { from: this.position, cursor: this.position, when: 0, segments: [], sources: new Set(), timer: 0, busy: false };
    this.run = run;
    const look = () => this.feed(run);
    run.timer = setInterval(look, beat);
    look();
  }

  // Hands over what is to be heard next, piece after piece, to the sample.
  async feed(run) {
    if (run.busy) return;
    run.busy = true;
    try {
      while (this.run === run) {
        const { context } = this;
        const over = run.cursor >= this.duration - 1e-6;
        if (over && !run.segments.some((s) => s.when + s.length > context.currentTime)) {
          this.position = this.duration;
          this.end(run);
          this.onStop();
          return;
        }
        if (over || run.when > context.currentTime + ahead) return;
        const n = this.pieceAt(run.cursor);
        let buffer = this.pieces.get(n);
        if (!(buffer instanceof AudioBuffer)) buffer = await this.fetchPiece(n);
        this.fetchPiece(n + 1).catch(() => {});
        if (this.run !== run) return;
        if (run.when < context.currentTime + 0.005) run.when = Math.ceil((context.currentTime + 0.02) * sampleRate) / sampleRate;
        const looped = this.loop && run.cursor < this.loop.end;
        const to = Math.min((n + 1) * piece, this.duration, looped ? this.loop.end : Infinity);
        const length = (to - run.cursor) / this.speed;
        const source = context.createBufferSource();
        source.buffer = buffer;
        source.playbackRate.value = this.rate;
        source.connect(context.destination);
        source.start(run.when, (run.cursor - n * piece) / this.speed, length);
        run.sources.add(source);
        source.onended = () => run.sources.delete(source);
        run.segments.push({ when: run.when, from: run.cursor, length: length / this.rate });
        while (run.segments.length > 2 && run.segments[1].when + run.segments[1].length < context.currentTime - 1) run.segments.shift();
        run.when += length / this.rate;
        run.cursor = looped && to >= this.loop.end - 1e-9 ? this.loop.start : to;
      }
    } catch (e) {
      // The server has gone: what is heard ends here.
      if (this.run !== run) return;
      this.pause();
      this.onError(e);
    } finally {
      run.busy = false;
    }
  }

  end(run) {
    clearInterval(run.timer);
    this.run = null;
    for (const source of run.sources) source.stop();
  }

  pause() {
    if (!this.run) return;
    this.position = this.time;
    this.end(this.run);
    this.onStop();
  }

  seek(t) {
    const again = this.playing ? this.rate : 0;
    this.pause();
    this.position = Math.max(0, Math.min(t, this.duration));
    if (again) this.play(again);
  }

  setLoop(loop) {
    const again = this.playing ? this.rate : 0;
    this.pause();
    this.loop = loop;
    if (again) this.play(again);
  }

  // Some other sound, once: a word as it would be said.
  async playBytes(bytes) {
    this.context ??= new AudioContext({ sampleRate });
    this.context.resume();
    const source = this.context.createBufferSource();
    source.buffer = await this.context.decodeAudioData(bytes);
    source.connect(this.context.destination);
    source.start();
  }

  // A short stretch around a moment, for scrubbing; silent while its piece is on the way.
  grain(t, seconds = 0.08) {
    if (!this.url || this.playing) return;
    const n = this.pieceAt(Math.max(0, t));
    const buffer = this.pieces.get(n);
    if (!(buffer instanceof AudioBuffer)) return void this.fetchPiece(n).catch(() => {});
    this.context.resume();
    const source = this.context.createBufferSource();
    const gain = this.context.createGain();
    source.buffer = buffer;
    source.connect(gain).connect(this.context.destination);
    const now = this.context.currentTime;
    gain.gain.setValueAtTime(0, now);
    gain.gain.linearRampToValueAtTime(1, now + 0.008);
    gain.gain.setValueAtTime(1, now + seconds - 0.02);
    gain.gain.linearRampToValueAtTime(0, now + seconds);
    source.start(now, (Math.max(0, t) - n * piece) / this.speed, seconds);
  }
}
