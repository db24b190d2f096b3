// The shots of the scene, the one at the playhead, and where it lies within the whole set.
import { get } from "../../front/api.js";
import { player, score } from "./shared.js";

export const isOfTwo = ({ framing }) => ["Two", "Shoulder"].includes(framing);

export const shotList = () => ({
  // The list is made when its divider is open and the scene has changed, not while it plays.
  shots: [],
  shotAt: 0,
  listShots() {
    if (this.divider !== "Camera" || !score.raw) return;
    const { width, height } = score.raw.production;
    this.shots = score.raw.shots.map((s, i) => ({
      key: `${i} ${s.start}`,
      index: i,
      start: s.start,
      reason: s.reason,
      label: `${i + 1} ${this.nameOf(s)}${s.clip ? " ✎" : ""}`,
      width: 128,
      height: Math.round((128 * height) / width),
      picture: `/api/scenes/${this.sceneId}/frames/${s.frame}?width=256&r=${this.version}`,
    }));
    score.view?.shotPictures.set(this.shots.map((s) => s.picture));
    this.findShot();
    this.placeShot();
  },
  // Which is at the playhead: told only when it is another one.
  findShot() {
    const { shots, fps } = score.raw ?? { shots: [] };
    const t = player.time + 0.5 / fps;
    const at = Math.max(
      0,
      shots.findLastIndex((s) => s.start <= t),
    );
    if (at === this.shotAt) return;
    this.shotAt = at;
    this.placeShot();
  },
  // Where it lies within the whole set: the picture of that, and a frame in it.
  shotPlace: null,
  async placeShot() {
    const { shot } = this;
    if (this.divider !== "Camera" || !shot || shot.framing === "Wide") return void (this.shotPlace = null);
    const middle = Math.min(this.scene.frames - 1, Math.round(((shot.start + shot.end) / 2) * this.scene.fps));
    const address = `/api/scenes/${this.sceneId}/frames/${middle}`;
    const place = await get(`${address}/place?r=${this.version}`).catch(() => null);
    if (!place || shot !== this.shot) return;
    const percent = (v) => `${(100 * v).toFixed(2)}%`;
    const box = { left: percent(place.left), top: percent(place.top), width: percent(place.share), height: percent(place.share) };
    this.shotPlace = { picture: `${address}?whole=true&width=480&r=${this.version}`, box };
  },
  get shot() {
    return this.scene?.shots[this.shotAt] ?? null;
  },
  watchShots() {
    window.addEventListener("scene-loaded", () => this.listShots());
    this.$watch("divider", () => this.listShots());
    this.$watch("time", () => this.divider === "Camera" && this.findShot());
    this.listShots();
  },
  nameOf(shot) {
    const role = (id) => this.scene.members.find((m) => m.id === id)?.roleName;
    if (shot.framing === "Insert") return `Insert, ${this.scene.props.find((p) => p.id === shot.prop)?.name ?? "gone"}`;
    if (shot.framing === "Wide" || !role(shot.subject)) return shot.framing;
    return [shot.framing, role(shot.subject), isOfTwo(shot) ? role(shot.other) : null].filter(Boolean).join(", ");
  },
  get shotText() {
    const { shot } = this;
    return `Shot ${this.shotAt + 1} of ${this.scene.shots.length}: ${this.nameOf(shot)}, ${(shot.end - shot.start).toFixed(1)} s`;
  },
  goToShot(shot) {
    this.goTo(shot.start + 0.5 / this.scene.fps);
  },
});
