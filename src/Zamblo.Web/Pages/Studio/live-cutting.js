// Cut live: the scene plays, digits choose what is seen, and what was chosen becomes shots.
import { get, post } from "../../front/api.js";
import { onKey, player, stage } from "./shared.js";

// Kept out of the component: it changes while the scene plays.
const run = { cards: [], cuts: [], timer: 0 };

export const liveCutting = () => ({
  isCutting: false,
  get cutKeys() {
    const roles = (this.scene?.members ?? []).map((m, i) => `${i + 2} ${m.roleName}`);
    return ["1 everybody", ...roles].join(", ") + "; the same digit again goes nearer. Escape leaves all as it was.";
  },
  async cutLive() {
    if (this.isCutting) return this.keepCuts();
    run.cards = await get(`/api/scenes/${this.sceneId}/framings`);
    run.cuts = [];
    this.isCutting = true;
    player.play();
    run.timer = setInterval(() => this.isCutting && !player.playing && this.keepCuts(), 200);
  },
  choose(digit) {
    const member = digit === 1 ? null : this.scene.members[digit - 2]?.id;
    if (member === undefined) return;
    const own = run.cards.filter((c) => c.member === member);
    const last = run.cuts.at(-1);
    const isAgain = last && last.member === member && last.framing === own[0].framing;
    const card = own[isAgain ? 1 : 0] ?? own[0];
    run.cuts.push({ at: player.time, framing: card.framing, member: card.member });
    stage.painter.held = card.look;
    stage.showAgain();
  },
  async keepCuts() {
    const end = player.time;
    const { cuts } = run;
    this.endCutting();
    if (!cuts.length) return;
    await this.edit(() => post(`/api/scenes/${this.sceneId}/cut-live`, { revision: this.revision, cuts, end }), `${cuts.length} shots cut.`);
  },
  endCutting() {
    clearInterval(run.timer);
    this.isCutting = false;
    player.pause();
    stage.painter.held = null;
    stage.showAgain();
  },
  cutKey({ name, control }) {
    if (!this.isCutting || control) return false;
    if (/^[1-9]$/.test(name)) this.choose(Number(name));
    else if (name === "Escape") this.endCutting();
    else if (name === "Enter" || name === " ") this.keepCuts();
    else return false;
    return true;
  },
  init() {
    onKey(1, (key) => this.cutKey(key));
    this.watchShots();
  },
});
