// How a cast member moves by itself: head, brows, eyes, hands, body.
import { patch } from "../../front/api.js";
import { memberDials } from "./member-dials.js";
import { mix } from "./mix.js";

const texts = {
  expressiveness: ["Expressiveness", 0, 2, 0.1, "", "How strongly moods and stress show in face and body."],
  turn: ["Turn", 0, 2, 0.1, "", "How far the head turns from side to side."],
  nod: ["Nod", 0, 2, 0.1, "", "How far the head nods on stressed words."],
  tilt: ["Tilt", 0, 2, 0.1, "", "How far the head leans to a shoulder."],
  brows: ["Brows", 0, 2, 0.1, "", "How far the brows rise and draw together."],
  blinks: ["Blinks", 0, 2, 0.1, "", "How often the lids close; 1 is as people in talk do."],
  gaze: ["Looking about", 0, 2, 0.1, "", "How often the eyes leave what they look at."],
  camera: ["Looks at the camera", 0, 2, 0.1, "", "How much of the time the eyes go to the audience."],
  listening: ["Listening", 0, 2, 0.1, "", "How much is answered while others speak: nods, smiles, looks."],
  body: ["Hands and body", 0, 2, 0.1, "", "How large the beats of hands and shoulders are."],
  swing: ["Wind-up", 0, 2, 0.1, "", "How far gestures go back before they begin, and beyond before they rest."],
  dangle: ["What dangles", 0, 2, 0.1, "", "How far hair, ears and the like swing after the head."],
};

const motionDials = () => ({
  get motions() {
    return this.rows(texts, this.member?.performance, `motion:${this.member?.id}`, this.whose);
  },
  turnMotion({ target }) {
    return this.turn(target, (key, value) => ({ performance: { [key]: value } }));
  },
  setSteady(event) {
    return this.changeMember({ performance: { isSteady: event.target.checked } });
  },
  newSeed() {
    const { id } = this.member;
    return this.edit(() => {
      const { seed } = this.scene.members.find((m) => m.id === id).performance;
      return patch(`/api/members/${id}`, { revision: this.revision, performance: { seed: (seed % 9999) + 1 } });
    });
  },
  openAlternates() {
    this.$dispatch("open-alternates");
  },
});

export const memberMotionPanel = () => mix(motionDials(), memberDials());
