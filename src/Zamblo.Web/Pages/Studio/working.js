// What may be done with work in the background, from the tray and from the films.
import { post, remove } from "../../front/api.js";

export const working = () => ({
  cancelJob(job) {
    return this.attempt(() => post(`/api/jobs/${job.id}/cancel`));
  },
  pauseJob(job) {
    return this.attempt(() => post(`/api/jobs/${job.id}/pause`));
  },
  goOnWith(job) {
    return this.attempt(() => post(`/api/jobs/${job.id}/go-on`));
  },
  retryJob(job) {
    return this.attempt(() => post(`/api/jobs/${job.id}/retry`));
  },
  // A film that was made goes with its job; what it was drawn of stays, so that it is soon made again.
  clearJob(job) {
    return this.attempt(async () => {
      await remove(`/api/jobs/${job.id}`);
      this.jobs = this.jobs.filter((j) => j.id !== job.id);
    });
  },
  render() {
    this.turnTo("Film");
    return this.attempt(() => post(`/api/productions/${this.scene.production.id}/renders`));
  },
});
