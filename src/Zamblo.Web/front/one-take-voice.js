// The voice of one take: recorded, brought, or typed; its ends, its noise, its mood.
import { get, patch, post, upload } from "./api.js";
import { Recorder } from "./recorder.js";
import { view } from "./one-take-shared.js";

// The longest recording, in seconds.
const longest = 600;
const mic = { recorder: null, timer: 0, begun: 0, before: 0 };

export const speaking = () => ({
  text: "",
  rec: { state: "off", level: 0, seconds: 0 },
  trim: { start: 0, end: 0 },
  whole: 0,
  clean: false,
  mood: "",
  moods: [],
  get recText() {
    const left = longest - this.rec.seconds;
    const at = `${Math.floor(this.rec.seconds / 60)}:${String(Math.floor(this.rec.seconds % 60)).padStart(2, "0")}`;
    return this.rec.state === "paused" ? `${at}, paused` : left < 60 ? `${at}, ${Math.ceil(left)} s left` : at;
  },
  record() {
    return this.attempt(async () => {
      mic.recorder = new Recorder((level) => (this.rec.level = level));
      await mic.recorder.open();
      mic.recorder.onLost = () => this.finish();
      mic.recorder.start();
      Object.assign(mic, { begun: performance.now(), before: 0 });
      Object.assign(this.rec, { state: "on", seconds: 0 });
      mic.timer = setInterval(() => {
        if (this.rec.state !== "on") return;
        this.rec.seconds = mic.before + (performance.now() - mic.begun) / 1000;
        if (this.rec.seconds >= longest) this.finish();
      }, 200);
    });
  },
  pauseRecording() {
    if (this.rec.state === "on") {
      mic.recorder.pause();
      mic.before = this.rec.seconds;
      this.rec.state = "paused";
    } else {
      mic.recorder.resume();
      mic.begun = performance.now();
      this.rec.state = "on";
    }
  },
  async closeMicrophone() {
    clearInterval(mic.timer);
    const blob = await mic.recorder.stop();
    mic.recorder.close();
    this.rec.state = "off";
    return blob;
  },
  cancelRecording() {
    return this.closeMicrophone();
  },
  async finish() {
    if (this.rec.state === "off") return;
    const blob = await this.closeMicrophone();
    const ending = blob.type.includes("ogg") ? "ogg" : blob.type.includes("mp4") ? "m4a" : "webm";
    return this.bring(blob, `take.${ending}`);
  },
  chooseFile(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (file) return this.bring(file, file.name);
  },
  dropFile(event) {
    const [file] = event.dataTransfer?.files ?? [];
    if (file && !this.production && !this.isMaking) return this.bring(file, file.name);
  },
  async bring(blob, name) {
    const sent = await this.attempt(() => upload(blob, name, (share) => (this.share = 0.05 * share)));
    if (sent) return this.make({ hash: sent.hash, name: sent.name });
  },
  speak() {
    return this.make({ text: this.text.trim() });
  },
  // What the line has: its length, its ends, its mood.
  async tellVoice(state) {
    const [line] = state.lines;
    const care = line.care ?? {};
    this.moods = state.moods;
    this.mood = state.clips.find((c) => c.kind === "mood")?.name ?? "";
    this.clean = (care.hiss ?? 0) > 0;
    this.whole = line.takes.find((t) => t.isUsed).duration;
    this.trim = { start: care.trimStart ?? 0, end: this.whole - (care.trimEnd ?? 0) };
    await this.drawWave(line);
  },
  get trimText() {
    return { start: `${this.trim.start.toFixed(1)} s`, end: `${this.trim.end.toFixed(1)} s` };
  },
  holdTrim(end, event) {
    const value = Number(event.target.value);
    this.trim[end] = end === "start" ? Math.min(value, this.trim.end - 0.3) : Math.max(value, this.trim.start + 0.3);
    this.drawWave(view.state.lines[0]);
  },
  changeCare(change) {
    const [line] = view.state.lines;
    return this.change(() => patch(`/api/takes/${line.take.id}/care`, { care: { ...line.care, ...change } }));
  },
  cutEnds() {
    return this.changeCare({ trimStart: this.trim.start, trimEnd: Math.max(0, this.whole - this.trim.end) });
  },
  setClean(event) {
    this.clean = event.target.checked;
    return this.changeCare({ hiss: this.clean ? 0.8 : 0 });
  },
  setMood(event) {
    const name = event.target.value;
    this.mood = name;
    return this.change(async () => {
      const { clips, lines } = view.state;
      const ids = clips.filter((c) => c.kind === "mood").map((c) => c.id);
      if (ids.length) await post(`/api/scenes/${view.scene}/clips/delete`, { ids });
      const [line] = lines;
      const at = { start: line.start, end: line.start + line.duration };
      if (name) await post(`/api/scenes/${view.scene}/clips`, { member: view.member, kind: "Mood", name, strength: 0.8, ...at });
    });
  },
  async drawWave(line) {
    const canvas = this.$refs.wave;
    const columns = 240;
    const hash = line.take.hash ?? "";
    if (hash && mic.peaksOf !== hash) {
      const { peaks } = await get(`/api/assets/${hash}/peaks?from=0&to=${this.whole}&columns=${columns}`).catch(() => ({ peaks: "" }));
      Object.assign(mic, { peaksOf: hash, peaks: Uint8Array.from(atob(peaks), (c) => c.charCodeAt(0)) });
    }
    if (!mic.peaks?.length) return;
    canvas.width = canvas.clientWidth * devicePixelRatio;
    canvas.height = canvas.clientHeight * devicePixelRatio;
    const c = canvas.getContext("2d");
    const style = getComputedStyle(document.documentElement);
    const step = canvas.width / columns;
    for (let i = 0; i < columns; i++) {
      const t = (this.whole * (i + 0.5)) / columns;
      c.fillStyle = style.getPropertyValue(t >= this.trim.start && t <= this.trim.end ? "--thread" : "--rule");
      const h = Math.max(2, (mic.peaks[i] / 255) * canvas.height);
      c.fillRect(i * step, (canvas.height - h) / 2, Math.max(1, step - 1), h);
    }
  },
});
