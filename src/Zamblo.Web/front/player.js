// Plays the sound of a scene. The audio clock is the master: the time shown is read from it, never counted.
export class Player {
  constructor() {
    this.context = null;
    this.buffer = null;
    this.source = null;
    this.position = 0;
    this.duration = 0;
    this.loop = null;
    this.rate = 1;
    // Below 1 a slower sound with its pitch kept is played; "slow" is that sound.
    this.speed = 1;
    this.slow = null;
    this.onStop = () => {};
  }

  async load(url, duration) {
    const wasPlaying = this.playing;
    this.pause();
    this.duration = duration;
    this.position = Math.min(this.position, duration);
    this.context ??= new AudioContext();
    const response = await fetch(url);
    if (!response.ok) throw new Error("The sound of this scene could not be loaded.");
    this.buffer = await this.context.decodeAudioData(await response.arrayBuffer());
    this.slow = null;
    this.speed = 1;
    if (wasPlaying) this.play();
  }

  async setSpeed(speed, url) {
    const wasPlaying = this.playing;
    this.pause();
    if (speed !== 1) {
      const response = await fetch(url);
      if (!response.ok) throw new Error("The slower sound could not be made.");
      this.slow = await this.context.decodeAudioData(await response.arrayBuffer());
    }
    this.speed = speed;
    if (wasPlaying) this.play();
  }

  get playing() {
    return this.source !== null;
  }

  // Seconds of the scene that are heard right now.
  get time() {
    if (!this.source) return this.position;
    const latency = this.context.outputLatency || 0;
    let t = this.startPosition + Math.max(0, this.context.currentTime - this.startedAt - latency) * this.rate * this.speed;
    if (this.loop && this.startPosition < this.loop.end && t >= this.loop.end) {
      const length = this.loop.end - this.loop.start;
      t = this.loop.start + ((t - this.loop.start) % length);
    }
    return Math.min(t, this.duration);
  }

  play(rate = 1) {
    if (!this.buffer) return;
    this.pause();
    this.context.resume();
    this.rate = rate;
    if (this.position >= this.duration - 0.02) this.position = this.loop?.start ?? 0;
    if (this.loop && (this.position < this.loop.start || this.position >= this.loop.end)) this.position = this.loop.start;
    const source = this.context.createBufferSource();
    source.buffer = this.speed === 1 ? this.buffer : this.slow;
    source.playbackRate.value = rate;
    if (this.loop) {
      source.loop = true;
      source.loopStart = this.loop.start / this.speed;
      source.loopEnd = this.loop.end / this.speed;
    }
    source.connect(this.context.destination);
    source.onended = () => {
      if (this.source !== source) return;
      this.position = this.duration;
      this.source = null;
      this.onStop();
    };
    this.startPosition = this.position;
    this.startedAt = this.context.currentTime;
    source.start(0, this.position / this.speed);
    this.source = source;
  }

  pause() {
    if (!this.source) return;
    this.position = this.time;
    const source = this.source;
    this.source = null;
    source.stop();
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
    this.context ??= new AudioContext();
    this.context.resume();
    const source = this.context.createBufferSource();
    source.buffer = await this.context.decodeAudioData(bytes);
    source.connect(this.context.destination);
    source.start();
  }

  // A short piece around a moment, for scrubbing.
  grain(t, seconds = 0.08) {
    if (!this.buffer || this.playing) return;
    this.context.resume();
    const source = this.context.createBufferSource();
    const gain = this.context.createGain();
    source.buffer = this.buffer;
    source.connect(gain).connect(this.context.destination);
    const now = this.context.currentTime;
    gain.gain.setValueAtTime(0, now);
    gain.gain.linearRampToValueAtTime(1, now + 0.008);
    gain.gain.setValueAtTime(1, now + seconds - 0.02);
    gain.gain.linearRampToValueAtTime(0, now + seconds);
    source.start(now, Math.max(0, t), seconds);
  }
}
