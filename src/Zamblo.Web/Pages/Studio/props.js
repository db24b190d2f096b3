// Props: things that stand about in a scene, move by themselves, and are held.
import { get, patch, post, remove } from "../../front/api.js";
import { mix } from "./mix.js";
import { propHands } from "./prop-hands.js";
import { act, onKey } from "./shared.js";

const texts = {
  x: ["Across", -200, 1480, 4, "", "Where it stands from the left (0) to the right (1280); it can be dragged on the stage, too."],
  y: ["Down", 0, 800, 2, "", "Where its foot is, from the top (0) to the bottom (720)."],
  size: ["Size", 0.2, 4, 0.05, "x", "1 is its own."],
  turn: ["Turned", -180, 180, 5, "°", "About its middle."],
};
const amount = { amount: ["How far", 0, 1, 0.05, "", "How much it moves."] };
const period = { period: ["Takes", 0.5, 30, 0.5, "s", "Once there and back, or once round."] };
const way = {
  toX: ["To the right", -1280, 1280, 10, "", "How far it goes to the right; less than 0 is to the left."],
  toY: ["Down by", -720, 720, 10, "", "How far it goes down; less than 0 is up."],
};
const motions = [
  ["Still", "Still", {}],
  ["Swing", "Swings", { ...amount, ...period }],
  ["Sway", "Sways", { ...amount, ...period }],
  ["Spin", "Turns round and round", period],
  ["Bob", "Up and down", { ...amount, ...period }],
  ["BackAndForth", "There and back", { ...period, ...way }],
  ["Across", "There, again and again", { ...period, ...way }],
];

const props = () => ({
  sought: "",
  stock: [],
  motions: motions.map(([key, name]) => ({ key, name })),
  init() {
    // A word that is picked as well is what Delete would be for, unless the prop has the focus.
    const isMeant = (target) => this.prop !== null && this.divider === "Set" && (target.closest?.(".stands, #props") || (!this.hasPick && !this.clip));
    onKey(8, ({ name, control, alt, target }) => !control && !alt && isMeant(target) && act({ Delete: () => this.takeOut() }, name));
  },
  get stockKinds() {
    const text = this.sought.trim().toLowerCase();
    const found = this.stock.filter((p) => !text || `${p.name} ${p.kind}`.toLowerCase().includes(text));
    return [...new Set(found.map((p) => p.kind))].map((name) => ({ name, props: found.filter((p) => p.kind === name) }));
  },
  async openProps() {
    this.sought = "";
    this.$refs.stock.showModal();
    if (!this.stock.length) await this.attempt(async () => (this.stock = await get("/api/props")));
  },
  closeProps() {
    this.$refs.stock.close();
  },
  async bring({ key, name }) {
    this.closeProps();
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/props`, { revision: this.revision, art: key }), `${name}: drag it where it belongs.`);
    if (done) this.pickProp(done.id);
  },
  async bringPicture(event) {
    const [file] = event.target.files;
    event.target.value = "";
    if (!file) return;
    this.closeProps();
    const sent = await this.attempt(() => post(`/api/pictures?name=${encodeURIComponent(file.name)}`, file));
    if (sent) await this.bring({ key: sent.set, name: "Your picture" });
  },
  get propRows() {
    return this.rows(texts, this.prop?.place, `prop:${this.propId}`, "Applies to this prop.");
  },
  get propMotionRows() {
    const own = motions.find(([key]) => key === this.prop?.place.motion)?.[2] ?? {};
    return this.rows(own, this.prop?.place, `prop:${this.propId}`, "Applies to this prop.");
  },
  holdProp({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
  turnProp({ target: { dataset, value } }) {
    const id = this.propId;
    return this.letGo(dataset.held, Number(value), () => this.putProp(id, { [dataset.key]: Number(value) }));
  },
  putProp(id, change) {
    return patch(`/api/props/${id}`, { revision: this.revision, ...change });
  },
  setMotion(event) {
    const id = this.propId;
    return this.edit(() => this.putProp(id, { motion: event.target.value }));
  },
  forward() {
    const id = this.propId;
    return this.edit(() => this.putProp(id, { step: 1 }));
  },
  backward() {
    const id = this.propId;
    return this.edit(() => this.putProp(id, { step: -1 }));
  },
  flip() {
    const { id } = this.prop;
    return this.edit(() => this.putProp(id, { flip: !this.scene.props.find((p) => p.id === id)?.place.flip }));
  },
  async another() {
    const id = this.propId;
    const done = await this.edit(() => post(`/api/props/${id}/copy`, { revision: this.revision }), "A second one.");
    if (done) this.pickProp(done.id);
  },
  takeOut() {
    const { id, name } = this.prop;
    this.pickProp(null);
    return this.edit(() => remove(`/api/props/${id}?revision=${this.revision}`), `${name}: out.`);
  },
});

export const propsPanel = () => mix(props(), propHands());
