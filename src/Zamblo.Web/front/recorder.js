// Records from the microphone: meter, pause and resume; gives a Blob in whatever the browser records.
export class Recorder {
  constructor(onLevel) {
    this.onLevel = onLevel;
  }

  async open() {
    try {
      this.stream = await navigator.mediaDevices.getUserMedia({
        audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false },
      });
    } catch (e) {
      if (e.name === "NotAllowedError")
        throw new Error("The browser was not allowed to use the microphone. Allow it in the address bar, then try again.", { cause: e });
      if (e.name === "NotFoundError") throw new Error("No microphone was found. Plug one in, then try again.", { cause: e });
      throw new Error(`The microphone could not be opened (${e.name}). Another program may be using it.`, { cause: e });
    }
    this.context = new AudioContext();
    const analyser = this.context.createAnalyser();
    analyser.fftSize = 1024;
    this.context.createMediaStreamSource(this.stream).connect(analyser);
    const samples = new Float32Array(analyser.fftSize);
    const meter = () => {
      if (!this.stream) return;
      analyser.getFloatTimeDomainData(samples);
      let peak = 0;
      for (const s of samples) peak = Math.max(peak, Math.abs(s));
      this.onLevel(peak);
      requestAnimationFrame(meter);
    };
    meter();
  }

  start() {
    this.parts = [];
    this.recorder = new MediaRecorder(this.stream);
    this.recorder.ondataavailable = (e) => e.data.size && this.parts.push(e.data);
    this.recorder.start(250);
  }

  pause() {
    this.recorder.pause();
  }

  resume() {
    this.recorder.resume();
  }

  stop() {
    return new Promise((resolve) => {
      this.recorder.onstop = () => resolve(new Blob(this.parts, { type: this.recorder.mimeType }));
      this.recorder.stop();
    });
  }

  close() {
    this.stream?.getTracks().forEach((t) => t.stop());
    this.stream = null;
    this.context?.close();
    this.context = null;
  }
}
