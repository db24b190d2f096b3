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
    this.clip = { name: file.name, state: "sending", share: 0, notes: [], id: "", key: "", size: "" };
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
    return `${this.clip.seconds.toFixed(1)} s of ${this.clip.name}. Longer voices let it go forth and back.`;
  },
  get isClipReady() {
    return this.clip?.state === "done";
  },
  get clipPicture() {
    return this.isClipReady ? `/api/characters/${this.clip.key}/picture` : null;
  },
  filmClip() {
    location.href = `/one-take?character=${this.clip.key}&backdrop=clear&size=${this.clip.size}`;
  },
});
