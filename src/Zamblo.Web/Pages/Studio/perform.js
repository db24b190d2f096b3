// Motion performed by hand while the voice plays: pointer or keys drive one part of a figure, and what they did becomes a clip.
// What a place of the pointer means for the part, the server knows.
import { post } from "../../front/api.js";
import { hand, performingHand } from "./hand.js";
import { mix } from "./mix.js";
import { player, stage } from "./shared.js";

const parts = {
  head: "Head",
  eyes: "Eyes",
  lids: "Lids",
  brows: "Brows",
  leftHand: "Left hand",
  rightHand: "Right hand",
  body: "Body",
  place: "Place on stage",
};

const performing = () => ({
  get actParts() {
    return Object.entries(parts).map(([key, text]) => ({ key, name: text }));
  },
  get isHand() {
    return this.act.part === "leftHand" || this.act.part === "rightHand";
  },
  setActPart(event) {
    this.act.part = event.target.value;
  },
  setActMode(event) {
    this.act.mode = event.target.value;
  },
  setActSmooth(event) {
    this.act.smooth = Number(event.target.value);
  },
  get actSmoothText() {
    return `${Math.round(this.act.smooth * 1000)} ms`;
  },
  async perform() {
    player.pause();
    const start = this.loop ? this.loop.start : player.position;
    const end = this.loop ? this.loop.end : this.scene.duration;
    this.setLoop(null);
    player.seek(start);
    Object.assign(hand, { x: 0, y: 0, tilt: 0, busy: false, points: [] });
    hand.keys.clear();
    this.act.state = "counting";
    this.liveBegin();
    for (this.act.count = 3; this.act.count > 0; this.act.count--) {
      await new Promise((r) => setTimeout(r, 600));
      if (this.act.state !== "counting") return;
    }
    this.act.state = "performing";
    player.play();
    const begun = player.position;
    const tick = async () => {
      if (this.act.state !== "performing") return;
      this.keysMove();
      this.padMove();
      const t = player.time;
      if (t >= begun && (hand.last === undefined || t > hand.last)) {
        hand.last = t;
        hand.points.push(this.isHand ? [t, ...this.stagePoint()] : [t, hand.x, hand.y, hand.tilt]);
      }
      this.live();
      if (!player.playing || t >= end - 0.001) return this.stopPerforming();
      requestAnimationFrame(tick);
    };
    hand.last = undefined;
    hand.start = begun;
    tick();
  },
  async stopPerforming() {
    if (this.act.state === "counting") return this.cancelPerforming();
    if (this.act.state !== "performing") return;
    this.act.state = "keeping";
    player.pause();
    const { part, mode, smooth } = this.act;
    const order = {
      member: this.selectedMember,
      part,
      start: hand.start,
      end: hand.last ?? hand.start,
      [this.isHand ? part : "pointer"]: hand.points,
      replaces: mode === "replace",
      smooth,
    };
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/performances`, { revision: this.revision, ...order }));
    this.liveEnd();
    this.act.state = "off";
    if (!done) return;
    this.unpick();
    this.pickClip(done.id);
    this.say(`${parts[part]} performed: ${done.keys} keys.`);
  },
  cancelPerforming() {
    player.pause();
    this.liveEnd();
    this.act.state = "off";
  },
  // The frame of now with the hand in it: one is on the way at a time, the newest place wins.
  async live() {
    if (hand.busy || !this.isPerforming) return;
    hand.busy = true;
    const moved = hand.moved;
    hand.moved = undefined;
    try {
      const frame = Math.min(this.scene.frames - 1, Math.floor(player.time * this.scene.fps + 1e-6));
      const answer = await post(`/api/scenes/${this.sceneId}/perform`, {
        member: this.selectedMember,
        frame,
        part: this.act.part,
        [this.isHand ? this.act.part : "pointer"]: this.isHand ? this.stagePoint() : [hand.x, hand.y, hand.tilt],
        replaces: this.act.mode === "replace",
      });
      if (this.isPerforming) stage.showOver(frame, answer);
      // How long a movement of the hand took to be seen.
      if (moved) performance.measure("hand to picture", { start: moved, end: performance.now() });
    } catch {
      /* the next one will tell */
    }
    hand.busy = false;
    if (hand.moved && this.isPerforming) this.live();
  },
});

export const performPanel = () => mix(performing(), performingHand());
