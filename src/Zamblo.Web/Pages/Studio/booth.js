// A voice arrives: typed and spoken, recorded, brought as a file, or with a whole script.
import { post } from "../../front/api.js";
import { boothFiles } from "./booth-files.js";
import { drafts } from "./drafts.js";
import { act, onKey } from "./shared.js";
import { leftOvers } from "./left-overs.js";
import { microphone } from "./microphone.js";
import { reading } from "./reading.js";
import { recording } from "./recording.js";
import { mix } from "./mix.js";

const typing = () => ({
  init() {
    onKey(60, ({ name, control }) => !control && act({ n: () => this.openBooth({ mode: "type" }) }, name));
    window.addEventListener("beforeunload", (e) => {
      if (this.booth.busy || this.isRecording || this.rec.state === "done") e.preventDefault();
    });
    this.listenToFiles();
    window.addEventListener("scene-ready", () => this.findLeftOvers(), { once: true });
  },
  // How a voice arrives.
  booth: { open: false, mode: "type", member: "", line: null, text: "", speakers: "one", busy: false, error: "", progress: 0 },
  openBooth({ mode, line = null, files = null }) {
    Object.assign(this.booth, { open: true, mode, line, member: line?.member ?? this.selectedMember, busy: false, error: "", progress: 0 });
    this.booth.text = drafts.read(this.draftKey) || this.boothWords;
    if (!this.$refs.booth.open) this.$refs.booth.showModal();
    this.punch.on = false;
    if (mode === "record") this.openMicrophone();
    // At once, so that no letter is lost; and again where it was hidden until now.
    if (mode === "type") this.$refs.words.focus();
    if (mode === "type") this.$nextTick(() => this.$refs.words.focus());
    if (files) this.takeFiles(files);
  },
  // What is typed here is kept until it is used or thrown away.
  // The words that are there: written, or as they were heard.
  get boothWords() {
    const { line } = this.booth;
    return line ? line.text || line.written : "";
  },
  get draftKey() {
    return this.booth.line ? `take:${this.booth.line.id}` : `voice:${this.scene?.production.id}`;
  },
  get hasDraft() {
    return this.booth.text.trim() !== "" && this.booth.text !== this.boothWords;
  },
  typed() {
    drafts.keep(this.draftKey, this.booth.text, this.boothWords);
  },
  throwAway() {
    drafts.drop(this.draftKey);
    this.booth.text = this.boothWords;
  },
  switchBooth(mode) {
    if (this.booth.line) localStorage.setItem("another-take", mode);
    this.closeMicrophone();
    this.booth.mode = mode;
    this.booth.error = "";
    if (mode === "record") this.openMicrophone();
  },
  boothType() {
    this.switchBooth("type");
  },
  boothRecord() {
    this.switchBooth("record");
  },
  boothFile() {
    this.switchBooth("file");
  },
  boothScript() {
    this.switchBooth("script");
  },
  async chooseScript(event) {
    const file = event.target.files[0];
    event.target.value = "";
    if (!file) return;
    this.booth.text = await file.text();
    this.typed();
  },
  bringScript() {
    if (this.booth.text.trim()) this.$dispatch("look-through", { text: this.booth.text });
  },
  closeBooth() {
    this.closeMicrophone();
    this.$refs.booth.close();
    this.booth.open = false;
  },
  async send(order) {
    const { line, member } = this.booth;
    if (line) await post(`/api/lines/${line.id}/takes`, order);
    else await post(`/api/scenes/${this.sceneId}/lines`, { member, ...order });
    this.throwAway();
    this.booth.busy = false;
    this.closeBooth();
  },
  async tryBooth(work) {
    this.booth.busy = true;
    this.booth.error = "";
    try {
      await work();
    } catch (e) {
      this.booth.error = e.message;
    }
    this.booth.busy = false;
  },
  speak() {
    return this.tryBooth(() => this.send({ kind: "synthesis", text: this.booth.text }));
  },
});

export const boothPanel = () => mix(typing(), boothFiles(), microphone(), recording(), reading(), leftOvers());
