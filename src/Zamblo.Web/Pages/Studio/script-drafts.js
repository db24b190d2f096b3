// The text of a line while it is written; what was begun is kept until it is used or thrown away.
import { patch, post } from "../../front/api.js";
import { clock } from "../../front/score.js";
import { drafts } from "./drafts.js";

export const scriptDrafts = () => ({
  editing: null,
  draft: "",
  takeDraft(line) {
    return this.write(line, line.written);
  },
  // Rows of a song that are sung again.
  repeatsOf(line) {
    const times = line.repeats.map((t) => clock(line.start + t));
    return `Rows that are written once are sung again at ${times.join(" and ")}: the mouth sings them.`;
  },
  writeRepeats(line) {
    return this.edit(() => post(`/api/lines/${line.id}/repeats`, { revision: this.revision }), "The rows stand there, too.");
  },
  // A text that was begun and not kept is still there.
  draftOf: (line) => `${line.id}`,
  hasDraft(line) {
    return this.editing !== line.id && this.kept.includes(line.id);
  },
  kept: Object.keys(localStorage)
    .filter((k) => k.startsWith("draft:line:"))
    .map((k) => k.slice("draft:line:".length)),
  startEdit(line) {
    this.editing = line.id;
    this.draft = drafts.read(`line:${line.id}`) || line.written;
    this.$nextTick(() => document.getElementById(`text-${line.id}`)?.focus());
  },
  typed(line) {
    drafts.keep(`line:${line.id}`, this.draft, line.written);
    this.findKept();
  },
  findKept() {
    this.kept = Object.keys(localStorage)
      .filter((k) => k.startsWith("draft:line:"))
      .map((k) => k.slice("draft:line:".length));
  },
  // Escape leaves the field, not the text.
  stopEdit() {
    this.editing = null;
  },
  throwAway(line) {
    drafts.drop(`line:${line.id}`);
    this.editing = null;
    this.findKept();
  },
  async saveText(line) {
    if (this.editing !== line.id) return;
    const text = this.draft.trim();
    this.editing = null;
    if (text !== line.text && !(await this.write(line, text))) {
      // Refused: what was typed is in its field again.
      this.editing = line.id;
      return;
    }
    this.throwAway(line);
  },
  write(line, text) {
    if (text === line.text) return true;
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, text }), "Words changed.");
  },
});
