// Another version of the script beside the lines that are there: what would change, row by row, before anything does.
import { post } from "../../front/api.js";
import { drafts } from "./drafts.js";

const looks = { [-1]: "text-thread line-through", 0: "", 1: "font-semibold underline decoration-2" };

const whatOf = (row) => {
  if (row.line === null) return "new";
  if (row.part === null) return "taken out";
  const changes = [row.isMoved && "moved", row.oldRole && "another role", row.isWritten && "other words"].filter((x) => x);
  return changes.join(", ") || "the same";
};

export const scriptChangesPanel = () => ({
  changes: { rows: [], problems: [] },
  script: null,
  showsSame: false,
  isChanging: false,
  changesError: "",
  async openChanges(script) {
    const found = await this.attempt(() => post(`/api/scenes/${this.sceneId}/script/compare`, script));
    if (!found) return;
    this.script = script;
    this.changesError = "";
    this.showsSame = false;
    found.rows.forEach((r, i) =>
      Object.assign(r, {
        key: `${i}`,
        isIn: true,
        what: whatOf(r),
        label: `${whatOf(r)}: ${r.role}, ${r.words.map((w) => w.text).join(" ")}`,
        words: r.words.map((w, k) => ({ key: `${k}`, text: w.text, look: r.line === null ? "" : looks[w.kind] })),
      }),
    );
    this.changes = found;
    this.$refs.changes.showModal();
  },
  closeChanges() {
    this.$refs.changes.close();
  },
  get shownChanges() {
    return this.changes.rows.filter((r) => this.showsSame || !r.isSame);
  },
  get changeCount() {
    return this.changes.rows.filter((r) => !r.isSame).length;
  },
  get tickedChanges() {
    return this.changes.rows.filter((r) => !r.isSame && r.isIn).length;
  },
  get changesHead() {
    const { rows } = this.changes;
    const same = rows.filter((r) => r.isSame).length;
    const counts = [
      [rows.filter((r) => r.line === null).length, "new"],
      [rows.filter((r) => r.line !== null && r.part !== null && !r.isSame).length, "changed"],
      [rows.filter((r) => r.part === null).length, "taken out"],
      [same, "the same"],
    ];
    return counts
      .filter(([n]) => n)
      .map(([n, what]) => `${n} ${what}`)
      .join(", ");
  },
  toggleSame() {
    this.showsSame = !this.showsSame;
  },
  tickChange(row) {
    row.isIn = !row.isIn;
  },
  // A new speech that is not wanted does not go along; a line that is not to change is named.
  async takeChanges() {
    this.isChanging = true;
    this.changesError = "";
    const { rows } = this.changes;
    const order = {
      ...this.script,
      revision: this.revision,
      unwanted: rows.filter((r) => r.line === null && !r.isIn).map((r) => r.part),
      left: rows.filter((r) => r.line !== null && !r.isIn).map((r) => r.line),
    };
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/script/changed`, order));
    this.isChanging = false;
    if (!done) return void (this.changesError = this.error);
    drafts.drop(`voice:${this.scene.production.id}`);
    this.closeChanges();
    this.$dispatch("script-taken");
    this.say(`${done.count} changed or taken out, ${done.lines} new.`);
  },
});
