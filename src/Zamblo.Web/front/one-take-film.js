// The film of one take: made as soon as there is something to see, and again when something has changed.
import { get, post } from "./api.js";
import { view } from "./one-take-shared.js";

const soon = 1200;
const run = { job: null, timer: 0 };

export const filming = () => ({
  film: { state: "none", share: 0, address: "", page: "" },
  get filmText() {
    const { state, share } = this.film;
    return {
      none: "",
      making: `Making the film: ${Math.round(100 * share)} %. It can be watched here already.`,
      there: "The film is there.",
      failed: "The film could not be made.",
    }[state];
  },
  renderSoon() {
    this.film.state = "making";
    this.film.share = 0;
    clearTimeout(run.timer);
    run.timer = setTimeout(() => this.render(), soon);
  },
  async render() {
    const before = run.job;
    run.job = null;
    this.film = { state: "making", share: 0, address: "", page: "" };
    if (before) await post(`/api/jobs/${before}/cancel`).catch(() => {});
    const order = await this.attempt(() => post(`/api/scenes/${view.scene}/renders`));
    if (!order) return void (this.film.state = "failed");
    run.job = order.job;
    return this.watch(order.job);
  },
  async watch(id) {
    while (run.job === id) {
      const jobs = await get(`/api/productions/${this.production}/jobs`).catch(() => []);
      if (run.job !== id) return;
      const job = jobs.find((j) => j.id === id);
      if (job?.state === "failed") {
        this.error = job.error;
        this.film.state = "failed";
        return;
      }
      if (job?.state === "done") {
        this.film = { state: "there", share: 1, address: `/api/jobs/${id}/film`, page: `/api/jobs/${id}/page` };
        run.job = null;
        return;
      }
      this.film.share = job?.progress ?? 0;
      await new Promise((r) => setTimeout(r, 400));
    }
  },
});
