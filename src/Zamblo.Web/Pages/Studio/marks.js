// Places on the floor that have names, as a list; marks-on-stage.js is the same on the stage.
import { post } from "../../front/api.js";

// Marks nearer to each other than this, in stage units, are hard to tell apart.
const apart = 60;

export const setMark = (panel, mark) => post(`/api/scenes/${panel.sceneId}/marks`, { revision: panel.revision, ...mark });

export const marksPanel = () => ({
  get marks() {
    return this.scene.scene.marks;
  },
  get canStand() {
    return this.member !== null && !this.member.stands.isFixed;
  },
  get standTitle() {
    return this.member ? `${this.member.roleName} stands on` : "";
  },
  get addTitle() {
    return this.member ? `Where ${this.member.roleName} stands` : "In the middle of the stage";
  },
  addMark() {
    let x = Math.round(this.member?.stands.x ?? 640);
    // Beside one that is there already.
    while (this.marks.some((m) => Math.abs(m.x - x) < apart)) x += apart;
    return this.edit(() => setMark(this, { x }), "A mark on the floor. Drag it on the stage, give it a name.");
  },
  renameMark({ id, name }, event) {
    const typed = event.target.value.trim();
    if (!typed || typed === name) return;
    return this.edit(() => setMark(this, { mark: id, name: typed }), null, { field: event.target });
  },
  moveMark({ id }, event) {
    return this.edit(() => setMark(this, { mark: id, x: Number(event.target.value) }));
  },
  standOn({ name, x }) {
    const { id, roleName } = this.member;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/places`, { revision: this.revision, member: id, x }), `${roleName} stands on ${name}.`);
  },
  liftMark({ id, name }) {
    return this.edit(
      () => post(`/api/scenes/${this.sceneId}/marks/lift`, { revision: this.revision, mark: id }),
      `${name} is off the floor; who was to go there goes there all the same.`,
    );
  },
});
