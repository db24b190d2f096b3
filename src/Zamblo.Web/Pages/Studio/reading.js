// While one records: the words in large type with the sentence that is being read, and the waveform as it grows.
// So many characters are read in a second at the most, and a pause of so many seconds ends a sentence (common practice for reading aloud).
const fastest = 20;
const breath = 0.45;
const voiced = 0.05;

// Loudest sample of every tenth of a second since the recording began; kept out of the component, as it grows.
const wave = { levels: [], second: 0 };

export const reading = () => ({
  sentence: 0,
  get sentences() {
    const parts = this.booth.text.match(/[^.!?…]+[.!?…]*["”’)]*\s*/g) ?? [];
    return parts.map((text, i) => ({ key: `${i}`, text, isNow: i === this.sentence }));
  },
  beginReading() {
    wave.levels = [];
    Object.assign(this, { sentence: 0 });
    Object.assign(wave, { spoken: 0, quiet: 0 });
  },
  nextSentence(by = 1) {
    this.sentence = Math.max(0, Math.min(this.sentences.length - 1, this.sentence + by));
    Object.assign(wave, { spoken: 0, quiet: 0 });
    this.$nextTick(() => this.$refs.reading?.querySelector(".is-now")?.scrollIntoView({ block: "center" }));
  },
  // Called for each look at the microphone while it records.
  readOn(level, seconds) {
    const tenth = Math.floor(seconds * 10);
    while (wave.levels.length <= tenth) wave.levels.push(0);
    wave.levels[tenth] = Math.max(wave.levels[tenth], level);
    const now = performance.now() / 1000;
    const since = Math.min(0.3, now - (wave.at ?? now));
    wave.at = now;
    if (level > voiced) Object.assign(wave, { spoken: wave.spoken + since, quiet: 0 });
    else wave.quiet += since;
    const length = this.sentences[this.sentence]?.text.length ?? 0;
    if (wave.quiet > breath && wave.spoken > Math.max(0.4, length / fastest) && this.sentence < this.sentences.length - 1) this.nextSentence();
    this.drawWave();
  },
  drawWave() {
    const canvas = this.$refs.recWave;
    const width = canvas.clientWidth;
    const height = canvas.clientHeight;
    if (!width) return;
    const ratio = devicePixelRatio;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    const c = canvas.getContext("2d");
    c.scale(ratio, ratio);
    const style = getComputedStyle(document.documentElement);
    // The newest at the right: three pixels a tenth of a second.
    const shown = wave.levels.slice(-Math.floor(width / 3));
    shown.forEach((level, i) => {
      c.fillStyle = style.getPropertyValue(level > 0.98 ? "--thread" : "--ink");
      const h = Math.max(1, level * (height - 2));
      c.fillRect(i * 3, (height - h) / 2, 2, h);
    });
  },
  readingKey(event) {
    if (!this.isTaking) return;
    const act = { " ": () => this.isRecording && this.pauseRecording(), ArrowDown: () => this.nextSentence(), ArrowUp: () => this.nextSentence(-1) }[event.key];
    if (!act || event.target.closest("button, input, select, textarea")) return;
    event.preventDefault();
    act();
  },
  // Escape never throws a recording away.
  escapeBooth(event) {
    if (this.rec.state === "counting") {
      event.preventDefault();
      this.rec.state = "ready";
      this.release();
    } else if (this.isRecording) {
      event.preventDefault();
      this.stopRecording();
      this.rec.note = "Escape has stopped it. Keep it, or record again; what is not kept stays among the notes.";
    }
  },
});
