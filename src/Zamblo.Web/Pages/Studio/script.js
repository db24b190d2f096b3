// The script: what is done with its lines and scenes.
import { patch, post, remove } from "../../front/api.js";
import { bringGuide } from "./guide.js";
import { lineLanguage } from "./line-language.js";
import { mix } from "./mix.js";
import { scriptDrafts } from "./script-drafts.js";
import { scriptPage } from "./script-page.js";
import { scriptWords } from "./script-words.js";
import { act, onKey } from "./shared.js";

const lines = () => ({
  deleteLine(line) {
    return this.edit(() => remove(`/api/lines/${line.id}?revision=${this.revision}`), "Line deleted.");
  },
  deleteSelected() {
    if (this.line) this.deleteLine(this.line);
  },
  get stale() {
    return (this.scene?.lines ?? []).filter((l) => l.isStale).length;
  },
  get staleText() {
    return this.stale === 1 ? "Speak the stale line" : `Speak ${this.stale} stale lines`;
  },
  speakStale() {
    return this.attempt(async () => {
      await post(`/api/scenes/${this.sceneId}/speak-stale`);
    });
  },
  lineUp(line) {
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: -1 }), "Line moved up.");
  },
  lineDown(line) {
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, move: 1 }), "Line moved down.");
  },
  chooseScene(event) {
    return this.goToScene(event.target.value);
  },
  addScene() {
    return this.attempt(async () => {
      const { id } = await post(`/api/productions/${this.scene.production.id}/scenes`, { revision: this.revision });
      await this.goToScene(id);
      this.say("Scene added.");
    });
  },
  init() {
    onKey(50, (key) => !key.control && act({ Delete: () => this.deleteSelected() }, key.name));
  },
  anotherTake(line) {
    // By the way that was used last for one, else as this one came.
    const usual = line.take?.kind === "synthesis" ? "type" : line.take?.kind === "recording" ? "record" : (line.take?.kind ?? "type");
    this.$dispatch("open-booth", { mode: localStorage.getItem("another-take") ?? usual, line });
  },
  openType() {
    this.$dispatch("open-booth", { mode: "type" });
  },
  openRecord() {
    this.$dispatch("open-booth", { mode: "record" });
  },
  openFile() {
    this.$dispatch("open-booth", { mode: "file" });
  },
  openScript() {
    this.$dispatch("open-booth", { mode: "script" });
  },
  bringVocal(line, event) {
    return bringGuide(this, line.take?.id, event);
  },
  hearAgain(line) {
    return this.attempt(() => post(`/api/lines/${line.id}/hear`));
  },
});

export const script = () => mix(lines(), lineLanguage(), scriptPage(), scriptWords(), scriptDrafts());
