// The studio. What all panels share is one small component around them: the scene, what is picked, the playhead, jobs, and the edits that are sent.
// Each panel is a component of its own within it; a panel sees what is shared and itself, and no other panel.
import Alpine from "@alpinejs/csp";
import { applyTheme, get } from "../../front/api.js";
import { carrying } from "./carrying.js";
import { dividers } from "./dividers.js";
import { edits } from "./edits.js";
import "./fields.js";
import { loading } from "./loading.js";
import { mix } from "./mix.js";
import { news } from "./news.js";
import { picking } from "./picking.js";
import { panels } from "./panels.js";
import { playing } from "./playing.js";
import { listenToKeys, onKey, player, score, stage } from "./shared.js";
import { trying } from "./trying.js";
import { turningScenes } from "./turning-scenes.js";
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

for (const [name, panel] of Object.entries(panels)) Alpine.data(name, panel);
Alpine.data("studio", () => mix(desk(), loading(), turningScenes(), playing(), picking(), trying(), edits(), news(), dividers(), working(), carrying()));
Alpine.start();
