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
    this.lookedFrom = 0;
    const none = { share: 0, notes: [], maps: [], id: "", keys: [], key: "", size: "", clip: "", frames: 0, seconds: 0 };
    this.clip = { ...none, name: file.name, state: "sending", from: 0, to: 0, loops: false, lids: false, jump: 0 };
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
    const { keys, from, to, loops, lids } = this.clip;
    const wish = { from, to, loops, lids, ...change };
    try {
      // All faces of a clip play the same part of it.
      const played = await post("/api/plates/play", { keys, ...wish });
      this.clip = { ...this.clip, ...wish, loops: played.loops, jump: played.jump, keys: played.keys, key: played.keys[0], played: played.seconds };
      this.error = wish.loops && !this.clip.loops ? "No two moments of it are alike enough to go round: it goes forth and back." : "";
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
  setLids(event) {
    return this.playClip({ lids: event.target.value === "played" });
  },
  get clipTo() {
    return (this.clip?.to || this.clip?.seconds || 0).toFixed(1);
  },
  get isClipReady() {
    return this.clip?.state === "done";
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
