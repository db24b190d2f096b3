// What the score shows: lanes and staves that are folded away, clips that are filtered, the map of the whole.
import { laneNames } from "../../front/score.js";
import { score } from "./shared.js";

export const scoreLanes = () => ({
  // Which clips the score shows, and which lanes are folded away.
  filterClips(event) {
    score.view.filter = event.target.value || null;
    this.pickClip(null);
  },
  foldLane(kind) {
    const { folded } = score.view;
    if (!folded.delete(kind)) folded.add(kind);
    this.foldedLanes = [...folded];
  },
  foldStaff(y) {
    const { slim, staves } = score.view;
    const staff = staves.find((s) => y >= s.y && y < s.y + s.height);
    if (!staff) return false;
    if (!slim.delete(staff.member.id)) slim.add(staff.member.id);
    return true;
  },
  // The map of the whole scene: a press goes there, a drag goes along.
  mapTo(event) {
    if (event.type === "pointerdown") event.target.setPointerCapture(event.pointerId);
    if (!event.buttons || !this.scene) return;
    score.view.isFitted = false;
    score.view.scroll = score.view.map.timeAt(score.view, event.offsetX) - score.view.visibleSeconds / 2;
    score.view.clampScroll();
  },
  // On a word, a line, or a moment of somebody's staff.
  dropOnScore(event) {
    const hit = score.view.hit(event.offsetX, event.offsetY);
    if (hit?.line) return this.layOnLine(event, hit.line, hit.lane === "voice" && hit.line.words?.length ? hit.index : -1);
    if (!hit?.member) return;
    const t = score.view.timeAt(event.offsetX);
    return this.lay(event, { member: hit.member.id, start: t, end: t + 2, at: t });
  },
  // A word that finds no room is read under the pointer.
  readWord(event) {
    const hit = this.scene && score.view.hit(event.offsetX, event.offsetY);
    const word = hit?.lane === "voice" && hit.item ? hit.item[0] : (hit?.clip?.title ?? "");
    this.$refs.score.title = word;
  },
  foldedLanes: [],
  get laneKinds() {
    return Object.entries(laneNames).map(([key, name]) => ({ key, name, isFolded: this.foldedLanes.includes(key) }));
  },
  get moodsInUse() {
    return [...new Set((this.scene?.clips ?? []).filter((c) => c.kind === "mood").map((c) => c.name))];
  },
});
