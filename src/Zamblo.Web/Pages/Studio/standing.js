// Where whoever is picked stands, as dials and buttons; placing.js is the same by hand, on the stage.
import { post } from "../../front/api.js";

const texts = {
  x: ["Across", -100, 1380, 4, "", "Where it stands from the left (0) to the right (1280); it can be dragged on the stage, too."],
  lift: ["Up", -300, 500, 2, "", "Above its own ground."],
  facing: ["Facing", -1, 1, 0.1, "", "To which side it is turned when it looks at nobody: left, the camera, right."],
  size: ["Size", 0.3, 3, 0.05, "x", "1 is the character's own."],
};

export const standing = () => ({
  get standingRows() {
    const { stands, id } = this.member ?? {};
    if (!stands || stands.isFixed) return [];
    const values = { x: Math.round(stands.x), lift: Math.round(stands.lift), facing: stands.facing, size: Math.round(stands.size * 100) / 100 };
    return this.rows(texts, values, `stands:${id}`, "Applies to this scene.");
  },
  holdStanding({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
  turnStanding({ target: { dataset, value } }) {
    const { id } = this.member;
    return this.letGo(dataset.held, Number(value), () => this.put(id, { [dataset.key]: Number(value) }));
  },
  put(member, place) {
    return post(`/api/scenes/${this.sceneId}/places`, { revision: this.revision, member, ...place });
  },
  toFront() {
    return this.edit(() => this.put(this.member.id, { step: 1 }));
  },
  toBack() {
    return this.edit(() => this.put(this.member.id, { step: -1 }));
  },
  faceEachOther() {
    return this.face(false, "Everybody is turned to whoever stands next.");
  },
  faceCamera() {
    return this.face(true, "Everybody faces the camera.");
  },
  face(away, say) {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/places/facing`, { revision: this.revision, away }), say);
  },
  get anyFacing() {
    return (this.scene?.members ?? []).some((m) => m.stands.facing !== 0);
  },
  get anyPlaced() {
    return (this.scene?.members ?? []).some((m) => m.stands.isPlaced);
  },
  standAlone() {
    const member = this.member.id;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/places/own`, { revision: this.revision, member }));
  },
  allStandAlone() {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/places/own`, { revision: this.revision }), "Everybody stands where they stood.");
  },
});
