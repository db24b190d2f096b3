// Light and weather of the scene.
import { patch } from "../../front/api.js";
import { lamps } from "./lamps.js";
import { lightSteps } from "./light-steps.js";
import { mix } from "./mix.js";

const names = { AsDrawn: "As drawn" };
const strength = { strength: ["Strength", 0, 1, 0.05, "", "How much of this light there is."] };
const shade = { shade: ["Shade", 0, 1, 0.05, "", "How much of the shade on the figures is seen."] };
const amount = { amount: ["Amount", 0, 1, 0.05, "", "How thick it falls."] };

const light = () => ({
  get lights() {
    return this.scene.scene.lights.map((key) => ({ key, name: names[key] ?? key }));
  },
  get lightDials() {
    const { light, weather } = this.scene?.scene.light ?? {};
    const texts = {
      ...(light === "AsDrawn" ? {} : strength),
      ...(light === "AsDrawn" && !this.lightSteps.length ? {} : shade),
      ...(weather === "Clear" ? {} : amount),
    };
    return this.rows(texts, this.scene?.scene.light, `light:${this.sceneId}`, "Applies to this scene.");
  },
  setLight(key, event) {
    return this.changeScene({ light: { [key]: event.target.value } });
  },
  holdLight({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
  turnLight({ target: { dataset, value } }) {
    const id = this.sceneId;
    return this.letGo(dataset.held, Number(value), () => patch(`/api/scenes/${id}`, { revision: this.revision, light: { [dataset.key]: Number(value) } }));
  },
});

export const lightPanel = () => mix(light(), lamps(), lightSteps());
