// Live news of a production: other tabs' edits, hearings, work in the background. A hidden tab listens to nothing and looks when it is shown again:
// a browser keeps only a few streams open for one address.
import { get } from "../../front/api.js";

// The newest of those that have ended.
const shown = 20;
const dress = (job) => ({
  ...job,
  active: job.state === "queued" || job.state === "running",
  failed: job.state === "failed" || job.state === "cancelled",
  percent: Math.round(job.progress * 100),
  film: `/api/jobs/${job.id}/film`,
  download: `/api/jobs/${job.id}/film?download=true`,
  name: job.kind === "render" ? `Film: ${job.title}` : job.title,
});

export const news = () => ({
  jobs: [],
  // By kind: how many have ended since there was last none under way.
  bursts: {},
  // The newest revision that anybody told of.
  newest: 0,
  // While somebody records, the stage holds still; the news waits.
  isHeld: false,
  // Who has the production open, where people sign in; and who oneself is.
  people: [],
  me: "",
  onlyLooks: false,
  waitsForNews: false,

  listenToNews(production) {
    let stream = null;
    const open = () => {
      if (stream) return;
      stream = new EventSource(`/api/productions/${production}/news?scene=${this.sceneId}`);
      stream.addEventListener("news", (e) => this.take(JSON.parse(e.data)));
    };
    const close = () => {
      stream?.close();
      stream = null;
    };
    get(`/api/productions/${production}/me`)
      .then((me) => Object.assign(this, { me: me.name, onlyLooks: ["Looks", "Comments"].includes(me.role) }))
      .catch(() => {});
    // Others see which scene one is at.
    this.$watch("sceneId", () => {
      close();
      open();
    });
    document.addEventListener("visibilitychange", () => {
      if (document.hidden) return close();
      open();
      this.catchUp();
    });
    window.addEventListener("pagehide", close);
    open();
  },
  take(item) {
    if (item.kind === "hello") return this.catchUp();
    if (item.kind === "job") return this.takeJob(dress(item.job));
    if (item.kind === "people") return void (this.people = item.people);
    if (item.kind === "remarks") return void window.dispatchEvent(new Event("remarks-changed"));
    if (item.revision) this.newest = Math.max(this.newest, item.revision);
    // Known already, or about to be.
    if ((item.revision && item.revision <= this.revision) || this.waiting > 0) return;
    if (this.isHeld) return void (this.waitsForNews = true);
    return this.reload(this.scene.lines.length === 0);
  },
  // After a while without news: how things stand.
  async catchUp() {
    const jobs = await get(`/api/productions/${this.scene.production.id}/jobs`).catch(() => null);
    if (!jobs) return;
    this.jobs = this.pickJobs(jobs.map(dress));
    if (!this.isHeld && this.waiting === 0) await this.reload();
  },
  release() {
    this.isHeld = false;
    if (!this.waitsForNews) return;
    this.waitsForNews = false;
    return this.reload(this.scene.lines.length === 0);
  },
  takeJob(job) {
    const others = this.jobs.filter((j) => j.id !== job.id);
    const burst = (this.bursts[job.kind] ??= { ended: 0 });
    if (!job.active && this.jobs.find((j) => j.id === job.id)?.active) burst.ended++;
    this.jobs = this.pickJobs([job, ...others].sort((a, b) => (a.created < b.created ? 1 : -1)));
    if (!this.jobs.some((j) => j.kind === job.kind && j.active)) burst.ended = 0;
    if (job.state === "done" && job.news && !others.some((j) => j.active)) this.say(job.news);
  },
  // What is under way, what went wrong, and the films.
  pickJobs(jobs) {
    const ended = jobs.filter((j) => !j.active && (j.kind === "render" || j.failed)).slice(0, shown);
    return jobs.filter((j) => j.active || ended.includes(j));
  },
});
