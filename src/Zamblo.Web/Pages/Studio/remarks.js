// What people have to say about places of the film: said at the playhead, gone through one by one, called done.
import { get, patch, post, remove } from "../../front/api.js";
import { clock } from "../../front/score.js";
import { onKey, player } from "./shared.js";

export const remarksPanel = () => ({
  isRemarking: false,
  showsDoneRemarks: false,
  remarks: [],
  remarkDraft: "",
  init() {
    onKey(61, ({ name, control }) => (!control && name === "q" ? (this.openRemarks(), true) : false));
    window.addEventListener("scene-ready", () => this.loadRemarks());
    window.addEventListener("remarks-changed", () => this.loadRemarks());
  },
  async loadRemarks() {
    if (!this.scene) return;
    const found = await get(`/api/productions/${this.scene.production.id}/remarks`).catch(() => null);
    if (found) this.remarks = found;
  },
  get openRemarkList() {
    return this.remarks.filter((r) => !r.isDone);
  },
  get countText() {
    return this.openRemarkList.length ? String(this.openRemarkList.length) : "";
  },
  get doneRemarksText() {
    return this.showsDoneRemarks ? "Back to what is open" : `${this.remarks.length - this.openRemarkList.length} done`;
  },
  // In the order of the film: scene by scene, and where their lines are now.
  get remarkRows() {
    const scenes = this.scene?.scenes ?? [];
    const order = (r) => scenes.findIndex((s) => s.id === r.sceneId);
    return this.remarks
      .filter((r) => r.isDone === this.showsDoneRemarks)
      .map((r) => {
        const line = r.sceneId === this.sceneId ? this.scene.lines.find((l) => l.id === r.lineId) : null;
        const at = line ? line.start + r.offset : r.at;
        const scene = scenes.find((s) => s.id === r.sceneId);
        const place = `${this.hasScenes && scene ? `${scene.title}, ` : ""}${clock(at, true)}${line ? `, ${this.wordSaidAt(line, at)}` : ""}`;
        return { ...r, at, place, isGone: !scene, about: [r.by, new Date(r.created).toLocaleDateString()].filter(Boolean).join(", ") };
      })
      .sort((a, b) => order(a) - order(b) || a.at - b.at);
  },
  // What is said there, else who speaks.
  wordSaidAt(line, at) {
    const word = (line.words ?? []).find((w) => at < line.start + w[2]);
    const who = this.scene.members.find((m) => m.id === line.member)?.roleName ?? "";
    return word ? `${who}: “${word[0]}”` : who;
  },
  toggleRemarks() {
    return this.isRemarking ? this.closeRemarks() : this.openRemarks();
  },
  openRemarks() {
    this.isRemarking = true;
    this.$nextTick(() => this.$refs.remarkText.focus({ preventScroll: true }));
  },
  closeRemarks() {
    this.isRemarking = false;
    document.getElementById("score-grid").focus({ preventScroll: true });
  },
  get hereText() {
    return this.isRemarking ? `Say something about ${clock(this.time, true)}` : "";
  },
  sayRemark() {
    const text = this.remarkDraft.trim();
    if (!text) return;
    const at = player.position;
    const line = this.scene.lines.find((l) => at >= l.start && at < l.start + l.duration);
    return this.attempt(async () => {
      await post(`/api/scenes/${this.sceneId}/remarks`, { text, at, line: line?.id ?? null, offset: line ? at - line.start : 0 });
      this.remarkDraft = "";
      await this.loadRemarks();
    });
  },
  async goToRemark(remark) {
    if (remark.isGone) return;
    await this.goToScene(remark.sceneId);
    this.goTo(this.remarkRows.find((r) => r.id === remark.id)?.at ?? remark.at);
  },
  changeRemark(remark, change) {
    return this.attempt(async () => {
      await patch(`/api/remarks/${remark.id}`, change);
      await this.loadRemarks();
    });
  },
  callDone(remark) {
    return this.changeRemark(remark, { isDone: !remark.isDone });
  },
  deleteRemark(remark) {
    return this.attempt(async () => {
      await remove(`/api/remarks/${remark.id}`);
      await this.loadRemarks();
    });
  },
});
