// A film in another form: what of it, as what, how loud. Chosen once, it stays so while the page is open.
import { get, post } from "../../front/api.js";

export const filmAsPanel = () => ({
  forms: [],
  what: "all",
  form: "webm",
  loudness: "",
  captions: false,
  async loadForms() {
    if (!this.forms.length) await this.attempt(async () => (this.forms = await get("/api/film-forms")));
  },
  get chosen() {
    return this.forms.find((f) => f.key === this.form) ?? null;
  },
  get canCaption() {
    return this.chosen?.hasTrack ?? false;
  },
  get isStretch() {
    return this.what === "loop" && this.loop !== null;
  },
  get purpose() {
    if (!this.chosen) return "";
    const what = this.isStretch && this.chosen.isWhole ? " Of the whole scene: a timeline has no stretch." : "";
    return `${this.chosen.title}: ${this.chosen.purpose}.${what}`;
  },
  get makeText() {
    return this.chosen ? `Make ${this.chosen.title}` : "Make";
  },
  makeAs() {
    const of = this.what === "all" ? `productions/${this.scene.production.id}` : `scenes/${this.sceneId}`;
    const order = { form: this.form, captions: this.captions && this.canCaption };
    if (this.loudness && this.chosen?.hasSound) order.loudness = Number(this.loudness);
    if (this.isStretch && !this.chosen?.isWhole) Object.assign(order, { from: this.loop.start, to: this.loop.end });
    return this.attempt(() => post(`/api/${of}/renders`, order));
  },
});
