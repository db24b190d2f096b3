// The review: what the audience would stumble over, gone through one by one.
import { get, post } from "../../front/api.js";
import { onKey, score } from "./shared.js";

export const reviewPanel = () => ({
  isReviewing: false,
  isLooking: false,
  showsFine: false,
  allFlags: [],
  flagAt: 0,
  init() {
    onKey(60, ({ name, control }) => (!control && name === "r" ? (this.openReview(), true) : false));
    // What was changed is looked at again.
    window.addEventListener("scene-loaded", () => {
      this.markFlags();
      if (this.isReviewing && this.seen !== this.version) this.lookAgain();
    });
  },
  async openReview() {
    this.isReviewing = true;
    await this.lookAgain();
    this.$refs.review.focus({ preventScroll: true });
  },
  closeReview() {
    this.isReviewing = false;
    this.markFlags();
    document.getElementById("score-grid").focus({ preventScroll: true });
  },
  async lookAgain() {
    if (this.isLooking) return;
    this.isLooking = true;
    const { version } = this;
    const { id, width, height } = this.scene.production;
    const found = await this.attempt(() => get(`/api/productions/${id}/review`));
    this.isLooking = false;
    this.seen = version;
    if (!found) return;
    this.allFlags = found.map((f) => ({
      ...f,
      width: 96,
      height: Math.round((96 * height) / width),
      picture: `/api/scenes/${f.scene}/frames/${f.frame}?width=192&r=${version}`,
      place: `${this.hasScenes ? `${f.sceneTitle}, ` : ""}${f.start.toFixed(1)} s: ${f.measure}`,
    }));
    this.flagAt = Math.min(this.flagAt, Math.max(0, this.flags.length - 1));
    this.markFlags();
  },
  // On the ruler of the score, too, while the review is open.
  markFlags() {
    if (!score.view) return;
    score.view.flags = this.isReviewing ? this.allFlags.filter((f) => f.scene === this.sceneId && !f.isFine) : [];
    score.view.draw();
  },
  get flags() {
    return this.allFlags.filter((f) => f.isFine === this.showsFine);
  },
  get fineCount() {
    return this.allFlags.filter((f) => f.isFine).length;
  },
  get fineText() {
    return this.showsFine ? "Back to what is open" : `${this.fineCount} called fine`;
  },
  get reviewText() {
    if (this.isLooking && !this.allFlags.length) return "Looking it through…";
    if (this.showsFine) return "Called fine; press again to look at it once more.";
    const serious = this.flags.filter((f) => f.isSerious).length;
    if (!this.flags.length) return "Nothing that an audience would stumble over.";
    return `${this.flags.length} ${this.flags.length === 1 ? "place" : "places"}, ${serious} serious.`;
  },
  toggleFine() {
    this.showsFine = !this.showsFine;
    this.flagAt = 0;
  },
  async goToFlag(flag) {
    this.flagAt = this.flags.findIndex((f) => f.key === flag.key);
    await this.goToScene(flag.scene);
    this.goTo(flag.start + 0.5 / this.scene.fps);
  },
  fixFlag(flag) {
    if (!flag?.fix) return;
    return this.edit(() => post(`/api/scenes/${flag.scene}/fix`, { revision: this.revision, key: flag.key }), `${flag.fix}: done.`);
  },
  callFine(flag) {
    if (!flag) return;
    const { id } = this.scene.production;
    return this.edit(() => post(`/api/productions/${id}/fine`, { revision: this.revision, key: flag.key, isFine: !flag.isFine }));
  },
  printReview() {
    window.open(`/production/${this.scene.production.id}/review`, "_blank");
  },
  reviewKey(event) {
    const step = (by) => {
      if (!this.flags.length) return;
      this.goToFlag(this.flags[(this.flagAt + by + this.flags.length) % this.flags.length]);
    };
    const keys = {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      Escape: () => this.closeReview(),
      f: () => this.callFine(this.flags[this.flagAt]),
      ...(event.target === this.$refs.review ? { Enter: () => this.fixFlag(this.flags[this.flagAt]) } : {}),
    };
    const act = keys[event.key];
    if (!act) return;
    event.preventDefault();
    event.stopPropagation();
    act();
  },
});
