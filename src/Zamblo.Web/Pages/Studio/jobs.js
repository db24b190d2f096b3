// Work in the background: how far it is, stop, run again, and what came out.
import { post } from "../../front/api.js";

export const jobsPanel = () => ({
  cancelJob(job) {
    return this.attempt(async () => {
      await post(`/api/jobs/${job.id}/cancel`);
    });
  },
  retryJob(job) {
    return this.attempt(async () => {
      await post(`/api/jobs/${job.id}/retry`);
    });
  },
});
