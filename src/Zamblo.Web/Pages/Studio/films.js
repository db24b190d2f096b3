// Films that were made and those under way: what each shows, and whether the production has gone on since.
import { post, remove } from "../../front/api.js";

const linkDays = 7;
const size = (bytes) => (bytes > 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1000))} kB`);
const time = (s) => `${Math.floor(s / 60)}:${String(Math.round(s % 60)).padStart(2, "0")}`;

const stopped = { cancelled: "Cancelled; what was drawn is kept.", paused: "Paused; what was drawn is kept." };

export const filmsPanel = () => ({
  linkOf: "",
  linkId: "",
  link: "",
  linkText: "",
  // Shown once: only its hash is kept.
  linkTo(film) {
    return this.makeLink(film.id, `/api/jobs/${film.id}/links`);
  },
  // To the production as it is, without a film.
  linkToAll() {
    const { id } = this.scene.production;
    return this.makeLink(id, `/api/productions/${id}/links`);
  },
  get isLinked() {
    return this.linkOf !== "" && this.linkOf === this.scene?.production.id;
  },
  makeLink(what, address) {
    return this.attempt(async () => {
      const made = await post(address, { days: linkDays });
      Object.assign(this, { linkOf: what, linkId: made.id, link: location.origin + made.path });
      this.linkText = `Good until ${new Date(made.expires).toLocaleDateString()}; shown only now.`;
      await navigator.clipboard.writeText(this.link).then(
        () => (this.linkText = `Copied. ${this.linkText}`),
        () => {},
      );
    });
  },
  unlink() {
    return this.attempt(async () => {
      await remove(`/api/links/${this.linkId}`);
      this.linkOf = "";
    });
  },
  openReview() {
    this.$dispatch("open-review");
  },
  get films() {
    const now = this.scene?.production.revision ?? 0;
    return this.jobs
      .filter((j) => j.kind === "render")
      .map((j) => {
        const s = j.shows;
        const facts = j.active ? j.detail : s ? `${s.made}, ${s.width}x${s.height}, ${time(s.seconds)}, ${size(s.bytes)}` : "";
        const since = s ? now - s.revision : 0;
        const when = new Date(j.created).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
        const oldText = `Out of date: ${since === 1 ? "one change" : `${since} changes`} since ${when}.`;
        return {
          ...j,
          facts: facts || stopped[j.state] || "",
          isOld: since > 0,
          oldText,
          isWatched: !s || s.isWatched,
        };
      });
  },
});
