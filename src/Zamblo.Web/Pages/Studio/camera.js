// The camera: what it does by itself, and the shot at the playhead.
import { patch, post } from "../../front/api.js";
import { liveCutting } from "./live-cutting.js";
import { mix } from "./mix.js";
import { player } from "./shared.js";
import { shotChange } from "./shot-change.js";
import { isOfTwo, shotList } from "./shot-list.js";

const dials = {
  pace: ["Pace", 0, 1, 0.05, "", "Few long shots, or many short ones; from one half on the camera moves, too."],
  nearness: ["Nearness", 0, 1, 0.05, "", "How often faces fill the picture."],
  drift: ["Wanders", 0, 1, 0.05, "", "How much the camera wanders in every shot, as one that is held."],
  reactions: ["Listeners", 0, 1, 0.05, "", "How much is seen of those who listen."],
  shoulders: ["Over shoulders", 0, 1, 0.05, "", "How often an answer is seen over the other one's shoulder."],
  things: ["Things", 0, 1, 0.05, "", "How often a prop is seen when it is first spoken of."],
};

// What a style is made of.
const style = ["pace", "nearness", "reactions", "shoulders", "things"];

const fades = {
  fadeIn: ["Out of black", 0, 5, 0.1, "s", "How long the picture takes to come at the start of the scene."],
  fadeOut: ["Into black", 0, 5, 0.1, "s", "How long it takes to go at the end."],
};

const shooting = () => ({
  framings: [
    { key: "Wide", says: "Everybody and the place" },
    { key: "Two", says: "Two who talk" },
    { key: "Shoulder", says: "One past another, whose head stands at the edge" },
    { key: "Full", says: "From head to foot" },
    { key: "Medium", says: "Head and chest" },
    { key: "Close", says: "The face" },
  ],
  // A thing can be looked at where there is one.
  get possibleFramings() {
    return this.scene.props.length ? [...this.framings, { key: "Insert", says: "A thing: the picked prop, or the one in front" }] : this.framings;
  },
  moves: [
    { key: "Still", name: "Holds still" },
    { key: "Push", name: "Comes nearer" },
    { key: "Pull", name: "Goes away" },
    { key: "Drift", name: "Wanders, held in the hand" },
    { key: "Shake", name: "Is shaken as it begins" },
  ],
  get cameraStyles() {
    const now = this.scene.scene.camera;
    const keys = ["isFixed", ...style];
    return this.scene.scene.cameraStyles.map((s) => ({ ...s, isNow: s.dials.isFixed ? now.isFixed : keys.every((k) => s.dials[k] === now[k]) }));
  },
  get cameraDials() {
    return this.rows(dials, this.scene?.scene.camera, `camera:${this.sceneId}`, "Applies to this scene.");
  },
  get fadeDials() {
    return this.rows(fades, this.scene?.scene.camera, `camera:${this.sceneId}`, "Applies to this scene.");
  },
  setStyle({ dials }) {
    const { isFixed } = dials;
    return this.changeScene({ camera: isFixed ? { isFixed } : { isFixed, ...Object.fromEntries(style.map((key) => [key, dials[key]])) } });
  },
  holdCamera({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
  turnCamera({ target: { dataset, value } }) {
    const id = this.sceneId;
    return this.letGo(dataset.held, Number(value), () => patch(`/api/scenes/${id}`, { revision: this.revision, camera: { [dataset.key]: Number(value) } }));
  },
  otherShots() {
    return this.changeScene({ camera: { seed: (this.scene.scene.camera.seed % 9999) + 1 } });
  },
  freeCamera() {
    return this.edit(() => post(`/api/scenes/${this.sceneId}/free-camera`, { revision: this.revision }), "The camera chooses all shots.");
  },
  keepShots() {
    const count = this.scene.shots.filter((s) => !s.clip).length;
    const said = `${count} shots are yours now: other dials and dice leave them.`;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/keep-shots`, { revision: this.revision }), said);
  },
  get hasChosenShots() {
    return this.scene.shots.some((s) => !s.clip);
  },
  keepShot() {
    return this.changeShot({}, this.shot, "This shot is yours now.");
  },
  get hasOwnShots() {
    return this.scene.shots.some((s) => s.clip);
  },
  // Whoever it may be of: who is seen, or speaks at that moment.
  subjectOf(shot) {
    const at = (shot.start + shot.end) / 2;
    const line = this.scene.lines.find((l) => l.start !== null && l.start <= at && l.start + l.duration > at);
    return shot.subject ?? line?.member ?? this.selectedMember;
  },
  // A shot of the camera's becomes one by hand when it is changed; one by hand is changed.
  changeShot(change, shot = this.shot, say = null) {
    if (shot.clip) return this.edit(() => patch(`/api/clips/${shot.clip}`, { revision: this.revision, ...change }), say);
    const { start, end, framing, move, other } = shot;
    const order = { kind: "Shot", member: this.subjectOf(shot), name: framing, move, other, start, end, ...change };
    return this.edit(() => post(`/api/scenes/${this.sceneId}/clips`, { revision: this.revision, ...order }), say);
  },
  reframe(name) {
    return this.changeShot(name === "Insert" && this.propId ? { name, prop: this.propId } : { name });
  },
  // Of whom, or of which thing.
  get shotSubjects() {
    if (this.shot.framing !== "Insert") return this.scene.members.map((m) => ({ id: m.id, name: m.roleName, isNow: m.id === this.shot.subject }));
    return this.scene.props.map((p) => ({ id: p.id, name: p.name, isNow: p.id === this.shot.prop }));
  },
  shotOf(event) {
    if (this.shot.framing === "Insert") return this.changeShot({ prop: event.target.value });
    const wide = this.shot.framing === "Wide" ? { name: "Medium" } : {};
    return this.changeShot({ member: event.target.value, ...wide });
  },
  // The second of two, or whose shoulder it is.
  get isOfTwo() {
    return isOfTwo(this.shot) && this.scene.members.length > 1;
  },
  get shotOthers() {
    return this.scene.members.filter((m) => m.id !== this.shot.subject).map((m) => ({ id: m.id, name: m.roleName, isNow: m.id === this.shot.other }));
  },
  shotPast(event) {
    return this.changeShot({ other: event.target.value });
  },
  shotMove(event) {
    return this.changeShot({ move: event.target.value });
  },
  // From the playhead on another shot: nearer, or the place.
  cutHere() {
    const { shot } = this;
    const start = player.position;
    if (start - shot.start < 0.2 || shot.end - start < 0.2) return this.say("There is a cut here already.");
    const name = shot.framing === "Wide" ? "Medium" : shot.framing === "Close" ? "Wide" : "Close";
    return this.changeShot({ name, start }, { ...shot, clip: null });
  },
  freeShot() {
    const { clip } = this.shot;
    return this.edit(() => post(`/api/scenes/${this.sceneId}/clips/delete`, { revision: this.revision, ids: [clip] }), "The camera chooses here again.");
  },
});

export const cameraPanel = () => mix(shooting(), shotList(), liveCutting(), shotChange());
