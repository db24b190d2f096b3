// How a cast member's mouth moves in all lines.
import { memberDials } from "./member-dials.js";
import { mix } from "./mix.js";

const texts = {
  strength: ["Mouth size", 0, 1.5, 0.05, "", "How far the mouth opens and stretches."],
  dynamics: ["Loud and soft", 0, 1, 0.05, "", "How much a whisper stays small and a shout opens wide."],
  density: ["How many shapes", 0, 1, 0.05, "", "Fewer shapes make a calmer mouth; P, B, M, F and V stay."],
  shortest: ["Shortest shape", 0, 0.2, 0.01, "ms", "A shape that would be shorter gives way to its neighbours."],
  attack: ["Into a line", 0.04, 0.3, 0.01, "ms", "How long the mouth takes from rest to the first sound."],
  release: ["Out of a line", 0.04, 0.6, 0.01, "ms", "How long it takes back to rest after the last sound."],
  corners: ["Corners at rest", -1, 1, 0.05, "", "Sullen below nought, a smile above, while nothing is said."],
  lead: ["Lead before the sound", 0, 0.08, 0.005, "ms", "The mouth is there so much before it is heard."],
};

const mouthDials = () => ({
  get dials() {
    return this.rows(texts, this.member?.mouth, `mouth:${this.member?.id}`, this.whose);
  },
  // While a dial is turned the frame on the stage follows; when it is let go the change is made.
  tryDial(event) {
    this.holdDial(event);
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: { [event.target.dataset.key]: Number(event.target.value) } });
  },
  turnDial({ target }) {
    return this.turn(target, (key, value) => ({ mouth: { [key]: value } }));
  },
  get shapeDials() {
    const dials = this.member?.mouth.shapeStrengths ?? {};
    return (this.scene?.shapes ?? [])
      .filter((s) => s !== "Rest" && s !== "Closed")
      .map((key) => {
        const held = `shape:${this.member?.id}${key}`;
        const value = this.held[held] ?? dials[key] ?? 1;
        const says = `How far ${key} is reached. ${this.whose}`;
        return { key, name: key, held, value, min: 0, max: 1.5, step: 0.05, says, text: `${Math.round(value * 100)} %` };
      });
  },
  tryShapeDial(event) {
    this.holdDial(event);
    const strengths = { [event.target.dataset.key]: Number(event.target.value) };
    return this.tryFrame({ operation: "Shape", member: this.member.id, mouth: { shapeStrengths: strengths } });
  },
  turnShapeDial({ target }) {
    return this.turn(target, (key, value) => ({ mouth: { shapeStrengths: { [key]: value } } }));
  },
  setHold(event) {
    return this.changeMember({ mouth: { holdFrames: Number(event.target.value) } });
  },
});

export const memberMouthPanel = () => mix(mouthDials(), memberDials());
