// The scene: its name and place in the film, its rhythm, its backdrop; the picture; what goes out of it.
import { patch, post, remove } from "../../front/api.js";
import { player } from "./shared.js";

export const scenePanel = () => ({
  cutScene() {
    const at = player.position;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/cut`, { revision: this.revision, at }), "Cut: what came after is the next scene.");
  },
  get isLaterScene() {
    return this.sceneList.findIndex((s) => s.id === this.sceneId) > 0;
  },
  async carryOn() {
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/carry`, { revision: this.revision }));
    if (done) this.say(done.said, false);
  },
  async dropScene() {
    const list = this.sceneList;
    const at = list.findIndex((s) => s.id === this.sceneId);
    const gone = this.sceneId;
    const next = (list[at + 1] ?? list[at - 1]).id;
    const done = await this.edit(async () => {
      const answer = await remove(`/api/scenes/${gone}?revision=${this.revision}`);
      this.sceneId = next;
      return answer;
    }, "Scene taken out, with its lines.");
    if (done) await this.showScene(next);
  },
  renameScene(event) {
    const title = event.target.value.trim();
    if (!title || title === this.scene.scene.title) return;
    return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, title }), null, { field: event.target });
  },
  sceneUp() {
    return this.changeScene({ move: -1 });
  },
  sceneDown() {
    return this.changeScene({ move: 1 });
  },
  renderScene() {
    this.turnTo("Film");
    return this.attempt(async () => {
      await post(`/api/scenes/${this.sceneId}/renders`);
    });
  },
  tighten() {
    return this.pace(0.8, "Shorter pauses.");
  },
  loosen() {
    return this.pace(1.25, "Longer pauses.");
  },
  evenOut() {
    return this.pace(null, "All pauses are the scene's.");
  },
  pace(factor, say) {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/gaps`, { revision: this.revision, factor }), say);
  },
  putBeat() {
    const at = player.position;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/beat`, { revision: this.revision, at, seconds: 0.5 }), "Half a second of stillness.");
  },
  setPause(event) {
    const pause = Number(event.target.value);
    const { id } = this.line;
    if (event.target.value === "" || !Number.isFinite(pause)) return this.followAgain();
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, pause }));
  },
  followAgain() {
    const { id } = this.line;
    return this.edit(() => patch(`/api/lines/${id}`, { revision: this.revision, follow: true }), "The line follows at the scene's pause.");
  },
  sayTogether(event) {
    const { id } = this.line;
    const together = event.target.checked;
    return this.edit(
      () => patch(`/api/lines/${id}`, { revision: this.revision, together }),
      together ? "Both begin at once." : "The line follows the one before.",
    );
  },
  get lineNumber() {
    return this.scene.lines.findIndex((l) => l.id === this.line?.id) + 1;
  },
  get pauseValue() {
    return this.line?.pause === null || this.line?.pause === undefined ? "" : this.line.pause.toFixed(2);
  },
  setGap(event) {
    return this.changeScene({ gap: Number(event.target.value) });
  },
  setLeadIn(event) {
    return this.changeScene({ leadIn: Number(event.target.value) });
  },
  setLeadOut(event) {
    return this.changeScene({ leadOut: Number(event.target.value) });
  },
});
