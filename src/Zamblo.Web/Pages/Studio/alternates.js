// The same motion with other choices, side by side and in step with the voice: one is picked, or a part of one.
import { closeLook } from "../../front/close-look.js";
import { FrameStore, StagePainter } from "../../front/stage.js";
import { player } from "./shared.js";

const view = { stores: [], painters: [], timer: 0, loop: null };

export const alternatesPanel = () => ({
  alternate: { open: false, list: [], kind: "seeds", part: "stage" },
  async openAlternates() {
    view.loop = this.loop;
    const t = player.position;
    const line =
      this.line?.member === this.selectedMember && this.line.start !== null
        ? this.line
        : this.scene.lines.find((l) => l.member === this.selectedMember && l.start !== null && l.start + l.duration > t);
    const range = this.loop ?? (line ? { start: line.start, end: line.start + line.duration } : { start: t, end: Math.min(this.scene.duration, t + 5) });
    this.setLoop({ start: range.start, end: Math.min(range.end, range.start + 12) });
    this.alternate.open = true;
    this.$refs.alternates.showModal();
    await this.fillAlternates("seeds");
    player.position = this.loop.start;
    player.play();
    const tick = () => {
      if (!this.alternate.open) return;
      this.drawAlternates();
      view.timer = requestAnimationFrame(tick);
    };
    tick();
  },
  closeAlternates() {
    this.alternate.open = false;
    cancelAnimationFrame(view.timer);
    player.pause();
    this.setLoop(view.loop);
    this.$refs.alternates.close();
  },
  showPart(part) {
    this.alternate.part = part;
  },
  moreSeeds() {
    const last = this.alternate.kind === "seeds" ? this.alternate.list.at(-1).dials.seed : this.member.performance.seed;
    return this.fillAlternates("seeds", last);
  },
  otherStrengths() {
    return this.fillAlternates("strengths");
  },
  async fillAlternates(kind, from = this.member.performance.seed) {
    const now = this.member.performance;
    const seed = (n) => ((from + n - 1) % 9999) + 1;
    const others =
      kind === "seeds"
        ? [1, 2, 3].map((n) => ({ name: `Way ${seed(n)}`, dials: { ...now, seed: seed(n), headSeed: 0, eyesSeed: 0, handsSeed: 0 } }))
        : [0.5, 1.4, 2].map((f) => ({ name: `${Math.round(100 * f)} % expressive`, dials: { ...now, expressiveness: f } }));
    this.alternate.kind = kind;
    this.alternate.list = [{ name: "As it is", dials: now }, ...others].map((a, key) => ({
      ...a,
      key: `${kind}${a.dials.seed}${a.dials.expressiveness}${key}`,
    }));
    await this.$nextTick();
    view.stores = this.alternate.list.map((a) => {
      const dials = encodeURIComponent(JSON.stringify(a.dials));
      return new FrameStore(
        (at, count) => `/api/scenes/${this.sceneId}/members/${this.selectedMember}/alternate?dials=${dials}&from=${at}&count=${count}&r=${this.version}`,
        this.scene.frames,
      );
    });
    view.painters = [...this.$refs.alternates.querySelectorAll("canvas")].map((c) => new StagePainter(c));
    for (const p of view.painters) p.look(this.scene.production.view);
    await Promise.all(view.painters.map((p) => p.load(`/api/scenes/${this.sceneId}/shapes?r=${this.version}`)));
  },
  drawAlternates() {
    const frame = Math.min(this.scene.frames - 1, Math.floor(player.time * this.scene.fps + 1e-6));
    const { width, height } = this.scene.production;
    view.painters.forEach((painter, i) => {
      const w = Math.round(painter.canvas.clientWidth * devicePixelRatio);
      if (!w || !painter.shapes) return;
      painter.resize(w, Math.round((w * height) / width));
      const items = view.stores[i]?.get(frame, 1);
      const { part } = this.alternate;
      if (!items) return;
      painter.isWhole = part !== "stage";
      painter.held = painter.isWhole ? closeLook(this.member, items, width / height, part) : null;
      painter.draw(items);
    });
  },
  // part: "all", or only the head's, the eyes' or the hands' choices: then more may be taken of the others.
  async takeAlternate(alternate, part) {
    const { seed } = alternate.dials;
    const performance = part === "all" ? alternate.dials : { [`${part}Seed`]: seed };
    if (part === "all") this.closeAlternates();
    await this.changeMember({ performance });
    if (part !== "all") await this.fillAlternates("seeds", this.alternate.list[1].dials.seed - 1);
  },
});
