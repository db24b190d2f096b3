// The scenes of a production, and the rhythm of the one that is open.
import { patch, post, remove } from "./api.js";

// tools: the player.
export function scenes(tools) {
  return {
    get sceneList() {
      return this.scene?.scenes ?? [];
    },
    get hasScenes() {
      return this.sceneList.length > 1;
    },
    async goToScene(id) {
      if (id === this.sceneId) return;
      tools.player.pause();
      this.sceneId = id;
      tools.player.position = 0;
      this.setLoop(null);
      history.replaceState(null, "", `?scene=${id}`);
      await this.reload(true);
      this.hurry();
    },
    chooseScene(event) {
      return this.goToScene(event.target.value);
    },
    // The next one, or the one before: at the ends nothing happens.
    turnScene(by) {
      const next = this.sceneList[this.sceneList.findIndex((s) => s.id === this.sceneId) + by];
      return next && this.goToScene(next.id);
    },
    addScene() {
      return this.attempt(async () => {
        const { id } = await post(`/api/productions/${this.scene.production.id}/scenes`, { revision: this.revision });
        await this.goToScene(id);
        this.say("Scene added.");
      });
    },
    cutScene() {
      return this.edit(async () => {
        await post(`/api/scenes/${this.sceneId}/cut`, { revision: this.revision, at: tools.player.position });
        this.say("Cut: what came after is the next scene.");
      });
    },
    dropScene() {
      return this.attempt(async () => {
        const list = this.sceneList;
        const at = list.findIndex((s) => s.id === this.sceneId);
        await remove(`/api/scenes/${this.sceneId}?revision=${this.revision}`);
        await this.goToScene((list[at + 1] ?? list[at - 1]).id);
        this.say("Scene taken out, with its lines.");
      });
    },
    renameScene(event) {
      const title = event.target.value.trim();
      if (title && title !== this.scene.scene.title) return this.changeScene({ title });
    },
    sceneUp() {
      return this.changeScene({ move: -1 });
    },
    sceneDown() {
      return this.changeScene({ move: 1 });
    },
    changeScene(change) {
      return this.edit(() => patch(`/api/scenes/${this.sceneId}`, { revision: this.revision, ...change }));
    },
    renderScene() {
      return this.attempt(async () => {
        await post(`/api/scenes/${this.sceneId}/renders`);
        this.hurry();
      });
    },

    // ---- rhythm

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
      return this.edit(
        () => post(`/api/scenes/${this.sceneId}/beat`, { revision: this.revision, at: tools.player.position, seconds: 0.5 }),
        "Half a second of stillness.",
      );
    },
  };
}
