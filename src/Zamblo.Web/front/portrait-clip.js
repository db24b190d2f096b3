// A clip of somebody: the face in it is followed on the server, and what is said later gets its mouth.
import { get, post, remove } from "./api.js";

const wait = (ms) => new Promise((r) => setTimeout(r, ms));

export const isClip = (file) => file.type.startsWith("video/") || /\.(mp4|mov|webm|mkv|m4v)$/i.test(file.name);

export const clipping = () => ({
  clip: null,
  clipNumber: 0,
  async bringClip(file) {
    Object.assign(this, { error: "", picture: null, faces: [], isReady: false, doing: "" });
    // What was stopped, or brought before this one, says nothing any more.
    const own = ++this.clipNumber;
    this.clip = { name: file.name, state: "sending", share: 0, notes: [], id: "", keys: [], key: "", size: "", from: 0, to: 0, loops: false, jump: 0 };
    try {
      const { id } = await post(`/api/plates?name=${encodeURIComponent(file.name)}`, file);
      let now = { id, state: "following" };
      while (own === this.clipNumber && now.state === "following") {
        this.clip = { ...this.clip, ...now };
        await wait(300);
        now = { ...now, ...(await get(`/api/plates/${id}`)) };
      }
      if (own !== this.clipNumber) return await remove(`/api/plates/${id}`);
      this.error = now.error ?? "";
      this.clip = now.state === "done" ? { ...this.clip, ...now } : null;
    } catch (e) {
      if (own !== this.clipNumber) return null;
      this.error = e.message;
      this.clip = null;
    }
    return null;
  },
  stopClip() {
    this.clipNumber++;
    this.clip = null;
  },
  get clipText() {
    if (!this.clip) return "";
    if (this.clip.state === "sending") return "Taking it in…";
    if (this.clip.state === "following") return `Following the face: ${Math.round(100 * this.clip.share)} %`;
    const { name, seconds, played = seconds, loops, jump } = this.clip;
    const then = loops ? `go round: the face jumps by ${(100 * jump).toFixed(1)} % of its width there` : "let it go forth and back";
    return `${played.toFixed(1)} s of ${name}. Longer voices ${then}.`;
  },
  // Another part of it, or another way to go on: the character is that one from now on.
  async playClip(change) {
    const wish = { from: this.clip.from, to: this.clip.to, loops: this.clip.loops, ...change };
    try {
      // All faces of a clip play the same part of it.
      const done = [];
      for (const key of this.clip.keys) done.push(await post(`/api/plates/${key}/play`, wish));
      const [{ seconds, loops, jump }] = done;
      const keys = done.map((d) => d.key);
      this.clip = { ...this.clip, ...wish, keys, key: keys[0], played: seconds, loops, jump };
      this.error = wish.loops && !loops ? "No two moments of it are alike enough to go round: it goes forth and back." : "";
    } catch (e) {
      this.error = e.message;
      this.clip = { ...this.clip };
    }
  },
  setFrom(event) {
    return this.playClip({ from: Number(event.target.value) || 0 });
  },
  setTo(event) {
    const to = Number(event.target.value) || 0;
    return this.playClip({ to: to >= this.clip.seconds ? 0 : to });
  },
  setLoops(event) {
    return this.playClip({ loops: event.target.value === "round" });
  },
  get clipTo() {
    return (this.clip?.to || this.clip?.seconds || 0).toFixed(1);
  },
  get isClipReady() {
    return this.clip?.state === "done";
  },
  // Of several faces each would have a seam of its own.
  get hasOneFace() {
    return this.clip?.keys.length === 1;
  },
  get clipFaces() {
    return this.isClipReady ? this.clip.keys.map((key, i) => ({ key, name: `Face ${i + 1} in the clip`, picture: `/api/characters/${key}/picture` })) : [];
  },
  // One face goes on to One take, several into a production of their own.
  async filmClip() {
    const { keys, name, size } = this.clip;
    if (keys.length > 1) {
      try {
        const { id } = await post("/api/portraits/production", { title: name.replace(/\.[^.]*$/, ""), keys, set: "clear", size });
        location.href = `/production/${id}`;
      } catch (e) {
        this.error = e.message;
      }
      return;
    }
    location.href = `/one-take?character=${this.clip.key}&backdrop=clear&size=${this.clip.size}`;
  },
});
