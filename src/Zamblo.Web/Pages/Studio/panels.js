// Every panel of the studio, by the name that its markup calls it by.
import { actingPanel } from "./acting.js";
import { alternatesPanel } from "./alternates.js";
import { boothPanel } from "./booth.js";
import { cameraPanel } from "./camera.js";
import { captionsPanel } from "./captions.js";
import { dubbingPanel } from "./dubbing.js";
import { castPanel } from "./cast.js";
import { castingPanel } from "./casting.js";
import { clipPanel } from "./clip.js";
import { cutterPanel } from "./cutter.js";
import { findPanel } from "./find.js";
import { faceViewPanel } from "./face-view.js";
import { filmAsPanel } from "./film-as.js";
import { filmsPanel } from "./films.js";
import { hearInPanel } from "./hear-in.js";
import { helpPanel } from "./help.js";
import { hintsPanel } from "./hints.js";
import { jobsPanel } from "./jobs.js";
import { lightPanel } from "./light.js";
import { lineActingPanel } from "./line-acting.js";
import { lineMouthPanel } from "./line-mouth.js";
import { marksPanel } from "./marks.js";
import { memberMotionPanel } from "./member-motion.js";
import { memberMouthPanel } from "./member-mouth.js";
import { memberVoicePanel } from "./member-voice.js";
import { lookThroughPanel } from "./look-through.js";
import { scriptChangesPanel } from "./script-changes.js";
import { notesPanel } from "./notes.js";
import { performPanel } from "./perform.js";
import { pickedPanel } from "./picked.js";
import { picturePanel } from "./picture.js";
import { placesPanel } from "./places.js";
import { remarksPanel } from "./remarks.js";
import { reviewPanel } from "./review.js";
import { scenePanel } from "./scene.js";
import { scorePanel } from "./score.js";
import { script } from "./script.js";
import { setPanel } from "./set.js";
import { soundsPanel } from "./sounds.js";
import { spoiltPanel } from "./spoilt.js";
import { stagePanel } from "./stage.js";
import { top } from "./top.js";
import { touchesPanel } from "./touches.js";
import { voicePanel } from "./voice.js";
import { placingPanel } from "./placing.js";
import { propsPanel } from "./props.js";
import { lexiconPanel } from "./lexicon.js";
import { voiceCheckPanel } from "./voice-check.js";
import { voicesPanel } from "./voices.js";

export const panels = {
  top,
  script,
  stagePanel,
  jobsPanel,
  notesPanel,
  memberVoicePanel,
  memberMouthPanel,
  memberMotionPanel,
  faceViewPanel,
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
  marksPanel,
  lineMouthPanel,
  lexiconPanel,
  placingPanel,
  propsPanel,
  voiceCheckPanel,
  soundsPanel,
  spoiltPanel,
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
  dubbingPanel,
  reviewPanel,
  helpPanel,
};
