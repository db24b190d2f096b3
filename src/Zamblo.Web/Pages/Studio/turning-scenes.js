// The scenes of the production, and going from one to another.
import { player } from "./shared.js";

export const turningScenes = () => ({
  get sceneList() {
    return this.scene?.scenes ?? [];
  },
  get hasScenes() {
    return this.sceneList.length > 1;
  },
  async goToScene(id) {
    if (id !== this.sceneId) await this.showScene(id);
  },
  async showScene(id) {
    player.pause();
    this.sceneId = id;
    player.position = 0;
    this.setLoop(null);
    history.replaceState(null, "", `?scene=${id}`);
    await this.reload(true);
  },
  // The next one, or the one before: at the ends nothing happens.
  turnScene(by) {
    const next = this.sceneList[this.sceneList.findIndex((s) => s.id === this.sceneId) + by];
    return next && this.goToScene(next.id);
  },
});
