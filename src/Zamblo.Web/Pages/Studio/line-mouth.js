// The mouth of a whole line: times in and out, a guide, saved mouths, boundaries.
import { call, get, post, remove } from "../../front/api.js";
import { bringGuide } from "./guide.js";

export const lineMouthPanel = () => ({
  savedMouths: [],
  motionName: "",
  timesUrl(format) {
    return this.line ? `/api/lines/${this.line.id}/times?format=${format}` : "#";
  },
  bringTimes(event) {
    const file = event.target.files[0];
    event.target.value = "";
    const id = this.line?.id;
    if (file && id) return this.edit(() => call("POST", `/api/lines/${id}/times?revision=${this.revision}`, file), "The times of the file are in use.");
  },
  bringGuide(event) {
    return bringGuide(this, this.line?.take?.id, event);
  },
  dropGuide() {
    const take = this.line.take.id;
    return this.edit(() => post(`/api/takes/${take}/guide`, { revision: this.revision }), "The mouth follows the take again.");
  },
  async loadMotions() {
    await this.attempt(async () => (this.savedMouths = await get("/api/motions")));
  },
  saveMotion() {
    const name = this.motionName.trim() || `${this.line.role}: ${(this.line.written || "line").slice(0, 30)}`;
    return this.attempt(async () => {
      await post("/api/motions", { line: this.line.id, name });
      this.motionName = "";
      await this.loadMotions();
      this.say("Mouth saved; it can be laid on any line.", false);
    });
  },
  layMotion(motion) {
    const id = this.line?.id;
    if (id) return this.edit(() => post(`/api/lines/${id}/lay`, { revision: this.revision, motion: motion.id }), `“${motion.name}” laid on the line.`);
  },
  dropMotion(motion) {
    return this.attempt(async () => {
      await remove(`/api/motions/${motion.id}`);
      await this.loadMotions();
    });
  },
  liftPins() {
    const { id } = this.pickedLine ?? this.line;
    return this.touch(() => post(`/api/lines/${id}/pins/lift`, { revision: this.revision }));
  },
});
