// The studio. What all panels share is one small component around them: the scene, what is picked, the playhead, jobs, and the edits that are sent.
// Each panel is a component of its own within it; a panel sees what is shared and itself, and no other panel.
import Alpine from "@alpinejs/csp";
import { applyTheme, get } from "../../front/api.js";
import { actingPanel } from "./acting.js";
import { alternatesPanel } from "./alternates.js";
import { boothPanel } from "./booth.js";
import { cameraPanel } from "./camera.js";
import { captionsPanel } from "./captions.js";
import { carrying } from "./carrying.js";
import { castPanel } from "./cast.js";
import { castingPanel } from "./casting.js";
import { clipPanel } from "./clip.js";
import { cutterPanel } from "./cutter.js";
import { dividers } from "./dividers.js";
import { edits } from "./edits.js";
import "./fields.js";
import { findPanel } from "./find.js";
import { filmAsPanel } from "./film-as.js";
import { filmsPanel } from "./films.js";
import { hearInPanel } from "./hear-in.js";
import { helpPanel } from "./help.js";
import { hintsPanel } from "./hints.js";
import { jobsPanel } from "./jobs.js";
import { lightPanel } from "./light.js";
import { lineActingPanel } from "./line-acting.js";
import { lineMouthPanel } from "./line-mouth.js";
import { loading } from "./loading.js";
import { memberMotionPanel } from "./member-motion.js";
import { memberMouthPanel } from "./member-mouth.js";
import { memberVoicePanel } from "./member-voice.js";
import { lookThroughPanel } from "./look-through.js";
import { scriptChangesPanel } from "./script-changes.js";
import { mix } from "./mix.js";
import { news } from "./news.js";
import { notesPanel } from "./notes.js";
import { performPanel } from "./perform.js";
import { pickedPanel } from "./picked.js";
import { picking } from "./picking.js";
import { picturePanel } from "./picture.js";
import { placesPanel } from "./places.js";
import { playing } from "./playing.js";
import { remarksPanel } from "./remarks.js";
import { reviewPanel } from "./review.js";
import { scenePanel } from "./scene.js";
import { scorePanel } from "./score.js";
import { script } from "./script.js";
import { listenToKeys, onKey, player, score, stage } from "./shared.js";
import { setPanel } from "./set.js";
import { soundsPanel } from "./sounds.js";
import { stagePanel } from "./stage.js";
import { top } from "./top.js";
import { touchesPanel } from "./touches.js";
import { trying } from "./trying.js";
import { voicePanel } from "./voice.js";
import { placingPanel } from "./placing.js";
import { propsPanel } from "./props.js";
import { lexiconPanel } from "./lexicon.js";
import { voiceCheckPanel } from "./voice-check.js";
import { voicesPanel } from "./voices.js";
import { working } from "./working.js";

applyTheme();

const desk = () => ({
  ready: false,
  error: "",
  toast: null,
  // What is performed by hand right now; the stage shows how far it is.
  act: { state: "off", part: "head", count: 0, mode: "replace", smooth: 0.06 },
  get isPerforming() {
    return this.act.state !== "off";
  },

  async init() {
    this.sceneId = this.$root.dataset.scene;
    // For whoever tests the page: what is shown and heard, as it is.
    window.zamblo = { player, score: () => score.view, painter: () => stage.painter, frames: () => stage.frames, waiting: () => this.waiting };
    player.onStop = () => (this.playing = false);
    player.onError = (e) => (this.error = e.message);
    listenToKeys(() => !this.scene || this.isPerforming);
    onKey(30, ({ name, control, shift }) => {
      if (!control || name !== "z") return false;
      if (shift) this.redo();
      else this.undo();
      return true;
    });
    await document.fonts.ready;
    await this.$nextTick();
    await this.reload(true);
    this.ready = true;
    window.dispatchEvent(new Event("scene-ready"));
    get("/api/voices")
      .then((v) => {
        this.voices = v;
        for (const line of this.scene?.lines ?? []) line.takeText = this.takeText(line);
      })
      .catch((e) => (this.error = e.message));
    this.listenToNews(this.$root.dataset.production);
  },
});

const panels = {
  top,
  script,
  stagePanel,
  jobsPanel,
  notesPanel,
  memberVoicePanel,
  memberMouthPanel,
  memberMotionPanel,
  picturePanel,
  filmAsPanel,
  filmsPanel,
  pickedPanel,
  clipPanel,
  touchesPanel,
  voicePanel,
  actingPanel,
  performPanel,
  castPanel,
  lineActingPanel,
  lineMouthPanel,
  lexiconPanel,
  placingPanel,
  propsPanel,
  voiceCheckPanel,
  soundsPanel,
  scenePanel,
  scorePanel,
  boothPanel,
  setPanel,
  cameraPanel,
  lightPanel,
  castingPanel,
  hintsPanel,
  hearInPanel,
  findPanel,
  lookThroughPanel,
  scriptChangesPanel,
  cutterPanel,
  alternatesPanel,
  voicesPanel,
  placesPanel,
  remarksPanel,
  captionsPanel,
  reviewPanel,
  helpPanel,
};
for (const [name, panel] of Object.entries(panels)) Alpine.data(name, panel);
Alpine.data("studio", () => mix(desk(), loading(), playing(), picking(), trying(), edits(), news(), dividers(), working(), carrying()));
Alpine.start();
