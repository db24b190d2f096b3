// A voice is recorded: into a new line, as another take, or into a take at the playhead.
import { upload } from "../../front/api.js";
import * as kept from "../../front/kept.js";
import { clock } from "../../front/score.js";
import { mic } from "./microphone.js";
import { player } from "./shared.js";

// The longest recording, in seconds, and how much is played before a recording into a take begins.
const longest = 1800;
const preRoll = 2;

export const recording = () => ({
  recSince: 0,
  rec: { state: "off", count: 0, level: 0, seconds: 0, url: "", blob: null, id: null, note: "" },
  punch: { on: false, keepsRest: true },
  get isRecording() {
    return this.rec.state === "recording" || this.rec.state === "paused";
  },
  get isTaking() {
    return this.isRecording || this.rec.state === "counting";
  },
  // Where in the line the playhead stands, in seconds, or null.
  get punchAt() {
    const line = this.booth.line && this.scene.lines.find((l) => l.id === this.booth.line.id);
    if (!line?.take || line.start === null) return null;
    const at = this.time - line.start;
    return at >= 0 && at <= line.duration ? at : null;
  },
  get punchText() {
    const at = this.punchAt;
    return at === null ? "" : `Record into the take, from the playhead (${at.toFixed(2)} s of the line)`;
  },
  setPunch(event) {
    this.punch.on = event.target.checked;
  },
  setKeepsRest(event) {
    this.punch.keepsRest = event.target.checked;
  },
  async record() {
    this.rec.state = "counting";
    // The button that was pressed is gone: keys would go to the page behind.
    this.$nextTick(() => this.$refs.booth.focus());
    this.isHeld = true;
    this.rec.note = "";
    const into = this.punch.on ? this.punchAt : null;
    if (into === null) {
      for (this.rec.count = 3; this.rec.count > 0; this.rec.count--) {
        await new Promise((r) => setTimeout(r, 700));
        if (this.rec.state !== "counting") return;
      }
    } else {
      // What was said before is played, so that the voice comes in on it.
      const at = player.position;
      const line = this.scene.lines.find((l) => l.id === this.booth.line.id);
      this.setLoop(null);
      player.position = Math.max(line.start, at - preRoll);
      player.play();
      while (player.playing && player.time < at - 0.005) {
        this.rec.count = Math.ceil(at - player.time);
        await new Promise((r) => setTimeout(r, 10));
        if (this.rec.state !== "counting") return player.pause();
      }
      player.pause();
      player.position = at;
    }
    const { member, line, text } = this.booth;
    const about = {
      production: this.scene.production.id,
      scene: this.sceneId,
      line: line?.id ?? null,
      member,
      text,
      punch: into === null ? null : { at: into, keepsRest: this.punch.keepsRest },
    };
    this.rec.punch = about.punch;
    this.rec.id = await kept.begin(about).catch(() => null);
    this.rec.seconds = 0;
    this.beginReading();
    mic.recorder.start((data, number) => {
      if (this.rec.id !== null)
        kept.add(this.rec.id, number, data, this.rec.seconds || 0.1).catch(() => (this.rec.note = "The browser has no room to keep a copy while it records."));
    });
    this.rec.state = "recording";
    // By the clock: a tab in the background is woken once a second only.
    this.recSince = performance.now();
    this.recTimer = setInterval(() => {
      this.recTick();
      if (this.rec.state !== "recording") return;
      if (this.rec.seconds < longest) return;
      this.stopRecording();
      this.rec.note = "Half an hour is the most that one recording holds: it has been stopped here.";
    }, 100);
  },
  recTick() {
    const now = performance.now();
    if (this.rec.state === "recording") this.rec.seconds += (now - this.recSince) / 1000;
    this.recSince = now;
  },
  pauseRecording() {
    this.recTick();
    if (this.rec.state === "recording") {
      mic.recorder.pause();
      this.rec.state = "paused";
    } else {
      mic.recorder.resume();
      this.rec.state = "recording";
    }
  },
  async stopRecording() {
    clearInterval(this.recTimer);
    this.recTick();
    this.rec.blob = await mic.recorder.stop();
    this.rec.url = URL.createObjectURL(this.rec.blob);
    this.rec.state = "done";
    this.release();
  },
  async again() {
    URL.revokeObjectURL(this.rec.url);
    if (this.rec.id !== null) await kept.drop(this.rec.id).catch(() => {});
    Object.assign(this.rec, { url: "", blob: null, seconds: 0, id: null, note: "" });
    // One that was found again has no microphone open yet.
    if (mic.recorder) this.rec.state = "ready";
    else await this.openMicrophone();
  },
  keep() {
    return this.tryBooth(async () => {
      const name = this.rec.blob.type.includes("mp4") ? "recording.m4a" : "recording.webm";
      const { hash } = await upload(this.rec.blob, name, (p) => (this.booth.progress = p));
      const { id, punch } = this.rec;
      await this.send({ kind: "recording", hash, name: "recording", text: this.booth.text, punch });
      // Only now that the server has it.
      if (id !== null) await kept.drop(id).catch(() => {});
      await this.findLeftOvers();
    });
  },
  get recSeconds() {
    return clock(this.rec.seconds, true);
  },
});
