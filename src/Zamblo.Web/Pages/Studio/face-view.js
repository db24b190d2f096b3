// Whoever is picked, large beside the notes: what the stage shows of that one at this moment, also while a dial is turned or a hand performs.
import { closeLook } from "../../front/close-look.js";
import { StagePainter } from "../../front/stage.js";
import { act, onKey, stage } from "./shared.js";

const view = { painter: null, items: null };

export const faceViewPanel = () => ({
  isFaceOpen: localStorage.getItem("face-view") === "yes",
  facePart: localStorage.getItem("face-part") === "body" ? "body" : "face",
  init() {
    onKey(60, ({ name, control, alt }) => !control && !alt && act({ h: () => this.toggleFace() }, name));
    stage.onDrawn = (items) => {
      view.items = items;
      if (this.isFaceOpen) this.drawFace();
    };
    this.$watch("selectedMember", () => this.drawFace());
  },
  toggleFace() {
    this.isFaceOpen = !this.isFaceOpen;
    localStorage.setItem("face-view", this.isFaceOpen ? "yes" : "no");
    if (this.isFaceOpen) return this.$nextTick().then(() => this.drawFace());
  },
  turnFace() {
    this.facePart = this.facePart === "face" ? "body" : "face";
    localStorage.setItem("face-part", this.facePart);
    this.drawFace();
  },
  get faceTitle() {
    return this.facePart === "face" ? "Show all of the figure" : "Show the face";
  },
  drawFace() {
    const canvas = this.$refs.face;
    if (!this.isFaceOpen || !view.items || !this.member || !canvas?.clientWidth || !stage.painter.shapes) return;
    // What is written on the picture would lie over the face.
    view.painter ??= Object.assign(new StagePainter(canvas), { isWhole: true });
    view.painter.share(stage.painter);
    view.painter.resize(Math.round(canvas.clientWidth * devicePixelRatio), Math.round(canvas.clientHeight * devicePixelRatio));
    view.painter.held = closeLook(this.member, view.items, canvas.width / canvas.height, this.facePart);
    view.painter.draw(view.items);
  },
});
