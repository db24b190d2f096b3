// The microphone: which one, how loud, and what happens when it goes.
import { Recorder } from "../../front/recorder.js";

// The one that is open.
export const mic = { recorder: null };

export const microphone = () => ({
  inputs: [],
  input: "",
  channels: "1",
  async openMicrophone() {
    mic.recorder?.close();
    this.rec.state = "opening";
    mic.recorder = new Recorder((level) => {
      if (this.rec.state === "recording") this.readOn(level, this.rec.seconds);
      this.rec.level = Math.max(Math.round(level * 100) / 100, Math.floor(this.rec.level * 60) / 100);
    });
    mic.recorder.onLost = () => this.microphoneLost();
    try {
      await mic.recorder.open(this.input, Number(this.channels));
      this.rec.state = "ready";
      this.inputs = await Recorder.inputs();
    } catch (e) {
      this.rec.state = "off";
      this.booth.error = e.message;
    }
  },
  closeMicrophone() {
    clearInterval(this.recTimer);
    mic.recorder?.close();
    mic.recorder = null;
    if (this.rec.url) URL.revokeObjectURL(this.rec.url);
    Object.assign(this.rec, { state: "off", level: 0, seconds: 0, url: "", blob: null, id: null, note: "" });
    this.release();
    this.findLeftOvers();
  },
  chooseInput(event) {
    this.input = event.target.value;
    return this.openMicrophone();
  },
  chooseChannels(event) {
    this.channels = event.target.value;
    return this.openMicrophone();
  },
  async microphoneLost() {
    if (this.isRecording) {
      await this.stopRecording();
      this.rec.note = "The microphone has gone; what was recorded until then is here.";
    } else if (this.rec.state !== "done") {
      this.rec.state = "off";
      this.booth.error = "The microphone has gone. Plug it in again or choose another.";
    }
  },
  get levelPercent() {
    return Math.min(100, Math.round(this.rec.level * 100));
  },
  get isClipping() {
    return this.rec.level > 0.98;
  },
});
