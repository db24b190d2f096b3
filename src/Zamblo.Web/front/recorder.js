// Records from a microphone: meter, pause and resume; gives pieces, and in the end a Blob, in whatever the browser records.
export class Recorder {
  constructor(onLevel) {
    this.onLevel = onLevel;
    // The input has gone away: pulled out, or taken by the system.
    this.onLost = () => {};
  }

  // device: an id, or "" for the usual one. channels: 1 or 2.
  async open(device = "", channels = 1) {
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({
        audio: {
          ...(device ? { deviceId: { exact: device } } : {}),
          channelCount: { ideal: channels },
          echoCancellation: false,
          noiseSuppression: false,
          autoGainControl: false,
        },
      });
    } catch (e) {
      if (e.name === "NotAllowedError")
        throw new Error("The browser was not allowed to use the microphone. Allow it in the address bar, then try again.", { cause: e });
      if (e.name === "NotFoundError" || e.name === "OverconstrainedError")
        throw new Error("No such microphone was found. Plug it in or choose another, then try again.", { cause: e });
      throw new Error(`The microphone could not be opened (${e.name}). Another program may be using it.`, { cause: e });
    }
    this.stream.getAudioTracks()[0].onended = () => this.onLost();
    this.context = new AudioContext();
    const analyser = this.context.createAnalyser();
    analyser.fftSize = 4096;
    this.context.createMediaStreamSource(this.stream).connect(analyser);
    const samples = new Float32Array(analyser.fftSize);
    // Not with every frame: a page that is always being painted takes time from the recording.
    this.meter = setInterval(() => {
      analyser.getFloatTimeDomainData(samples);
      let peak = 0;
      for (const s of samples) peak = Math.max(peak, Math.abs(s));
      this.onLevel(peak);
    }, 80);
  }

  // Names are told only after a microphone has been opened.
  static async inputs() {
    const all = await navigator.mediaDevices.enumerateDevices();
    return all.filter((d) => d.kind === "audioinput").map((d, i) => ({ id: d.deviceId, name: d.label || `Input ${i + 1}` }));
  }

  // onPiece is given each second of sound as it comes, and its number.
  start(onPiece = () => {}) {
    this.parts = [];
    this.recorder = new MediaRecorder(this.stream);
    this.recorder.ondataavailable = (e) => {
      if (!e.data.size) return;
      this.parts.push(e.data);
      onPiece(e.data, this.parts.length - 1);
    };
    this.recorder.start(1000);
  }

  pause() {
    this.recorder.pause();
  }

  resume() {
    this.recorder.resume();
  }

  stop() {
    return new Promise((resolve) => {
      const end = () => resolve(new Blob(this.parts, { type: this.recorder.mimeType }));
      if (this.recorder.state === "inactive") return end();
      this.recorder.onstop = end;
      this.recorder.stop();
    });
  }

  close() {
    clearInterval(this.meter);
    this.stream?.getTracks().forEach((t) => {
      t.onended = null;
      t.stop();
    });
    this.stream = null;
    this.context?.close();
    this.context = null;
  }
}
