// What of a scene could not be read as it stands: it is told, and becomes what is shown when somebody says so.
import { post } from "../../front/api.js";

export const spoiltPanel = () => ({
  get spoiltRows() {
    return this.scene?.scene.spoilt ?? [];
  },
  get hasSpoilt() {
    return this.spoiltRows.length > 0;
  },
  get spoiltTitle() {
    const n = this.spoiltRows.length;
    return n === 1 ? "One thing of this scene could not be read as it stands" : `${n} things of this scene could not be read as they stand`;
  },
  keepShown() {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/mend`, { revision: this.revision }), "Kept as it is shown.");
  },
});
