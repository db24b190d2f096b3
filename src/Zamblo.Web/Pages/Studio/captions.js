// Captions: what stands in place of what is said, line by line, in the spoken language and in others.
import { call, get, patch, post } from "../../front/api.js";
import { clock } from "../../front/score.js";
import { nameOfLanguage as nameOf } from "./languages.js";

const another = "+";
const rowsOf = (text) =>
  Math.min(
    6,
    Math.max(
      1,
      text.split("\n").reduce((n, row) => n + Math.max(1, Math.ceil(row.length / 48)), 0),
    ),
  );

export const captionsPanel = () => ({
  isCaptioning: false,
  captionTag: "",
  adding: false,
  // A translated script whose language has still to be named.
  waitingScript: null,
  // Begun, though nothing is written in them yet.
  begun: [],
  captionList: { languages: [], rows: [] },
  init() {
    window.addEventListener("scene-loaded", () => this.isCaptioning && this.loadCaptions());
  },
  async openCaptions() {
    this.captionTag = this.scene.production.lettering.language;
    this.isCaptioning = true;
    await this.loadCaptions();
    this.$refs.captionLanguage.focus({ preventScroll: true });
  },
  closeCaptions() {
    this.isCaptioning = false;
    document.getElementById("score-grid").focus({ preventScroll: true });
  },
  async loadCaptions() {
    const tag = this.captionTag;
    const found = await this.attempt(() => get(`/api/scenes/${this.sceneId}/caption-list?language=${encodeURIComponent(tag)}`));
    if (found && tag === this.captionTag) this.captionList = found;
  },
  get captionLanguages() {
    const shown = this.scene?.production.lettering.language;
    const tags = new Set([...this.captionList.languages, ...this.begun, ...(shown ? [shown] : [])]);
    const others = [...tags].sort().map((tag) => ({ tag, name: nameOf(tag) }));
    return [{ tag: "", name: "As it is spoken" }, ...others, { tag: another, name: "Another language…" }];
  },
  get captionRows() {
    return this.captionList.rows.map((r) => ({
      ...r,
      key: `${this.captionTag} ${r.line}`,
      time: clock(r.start, true),
      shown: r.text ?? (this.captionTag ? "" : r.said),
      rows: rowsOf(r.text ?? r.said),
      captions: r.captions.map((c) => ({ ...c, times: `${clock(c.start, true)}–${clock(c.end, true)}`, paceText: `${Math.round(c.pace)}/s` })),
    }));
  },
  get hasWritten() {
    return this.captionList.rows.some((r) => r.text !== null);
  },
  get dropText() {
    return this.captionTag ? `Remove ${nameOf(this.captionTag)}` : "All as it is said";
  },
  captionFile(format) {
    return `/api/scenes/${this.sceneId}/captions?format=${format}&language=${encodeURIComponent(this.captionTag)}`;
  },
  turnToLanguage(tag) {
    this.adding = tag === another;
    if (this.adding) return this.$nextTick(() => this.$refs.newTag.focus());
    this.captionTag = tag;
    return this.loadCaptions();
  },
  addLanguage(event) {
    const tag = event.target.value.trim();
    if (!tag) return;
    event.target.value = "";
    this.begun = [...this.begun, tag];
    const text = this.waitingScript;
    this.waitingScript = null;
    this.adding = false;
    return text ? this.translate(tag, text) : this.turnToLanguage(tag);
  },
  async writeCaption(row, event) {
    const text = event.target.value.trim();
    // What is said needs not be written down a second time.
    const kept = !this.captionTag && text === row.said ? "" : text;
    if (kept === (row.text ?? "")) return;
    const change = () => call("PUT", `/api/lines/${row.line}/caption`, { revision: this.revision, language: this.captionTag, text: kept });
    await this.edit(change, null, { field: event.target });
  },
  async bringTranslation(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    // "play.de.fountain" says it by itself.
    const named = /\.([A-Za-z]{2,3}(?:-[A-Za-z0-9]{2,8})*)\.[a-z]+$/.exec(file.name)?.[1];
    const text = await file.text();
    if (this.captionTag || named) return this.translate(this.captionTag || named, text);
    // Its language is asked for first.
    this.waitingScript = text;
    this.turnToLanguage(another);
  },
  async translate(language, text) {
    const address = `/api/productions/${this.scene.production.id}/captions`;
    const done = await this.edit(() => post(address, { revision: this.revision, language, text }), `Captions in ${nameOf(language)} are in.`);
    if (!done) return;
    this.captionTag = language;
    await this.loadCaptions();
  },
  dropLanguage() {
    const address = `/api/productions/${this.scene.production.id}/captions/removal`;
    return this.edit(() => post(address, { revision: this.revision, language: this.captionTag }), this.captionTag ? "They are gone." : null);
  },
  get isInPicture() {
    const { hasCaptions, language } = this.scene?.production.lettering ?? {};
    return Boolean(hasCaptions) && language === this.captionTag;
  },
  showInPicture(event) {
    const lettering = event.target.checked ? { hasCaptions: true, language: this.captionTag } : { hasCaptions: false };
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, lettering }));
  },
});
