// A long file is cut by hand: a drag over its waveform makes a stretch, and each stretch becomes a line.
import { post } from "../../front/api.js";
import { cutterWave, view } from "./cutter-wave.js";
import { mix } from "./mix.js";
import { player, score } from "./shared.js";

const shortest = 0.1;
// So near, in pixels, the pointer takes an edge.
const near = 6;

const stretches = () => ({
  cut: { open: false, hash: "", name: "", seconds: 0, parts: [], picked: null, error: "", busy: false, member: null },
  async openCutter({ hash, name, seconds, member }) {
    Object.assign(this.cut, { open: true, hash, name, seconds, parts: [], picked: null, error: "", busy: false, member });
    Object.assign(view, { from: 0, to: seconds, drag: null });
    this.$refs.cutter.showModal();
    await this.lookAtCut();
  },
  closeCutter() {
    this.$refs.cutter.close();
    this.cut.open = false;
  },
  cutDown(event) {
    const t = this.cutTime(event.offsetX);
    event.target.setPointerCapture(event.pointerId);
    const reach = (near / this.$refs.wave.clientWidth) * (view.to - view.from);
    for (const part of this.cut.parts)
      for (const side of ["start", "end"])
        if (Math.abs(part[side] - t) < reach) {
          this.cut.picked = part.key;
          view.drag = { part, side };
          return;
        }
    const under = this.cut.parts.find((p) => t > p.start && t < p.end);
    if (under) {
      this.cut.picked = under.key;
      return this.drawCut();
    }
    view.drag = { from: t, part: null };
  },
  cutMove(event) {
    const { drag } = view;
    if (!drag) return;
    const t = this.cutTime(event.offsetX);
    if (!drag.part) {
      if (Math.abs(t - drag.from) < shortest) return;
      this.addPart(Math.min(t, drag.from), Math.max(t, drag.from));
      drag.part = this.cut.parts.find((p) => p.key === this.cut.picked);
      drag.side = t > drag.from ? "end" : "start";
    }
    this.movePart(drag.part, drag.side, t);
  },
  cutUp() {
    view.drag = null;
  },
  addPart(start, end) {
    const last = this.cut.parts.at(-1);
    const key = ++view.number;
    this.cut.parts.push({ key, start, end, member: last?.member ?? this.cut.member ?? this.selectedMember, text: "" });
    this.cut.parts.sort((a, b) => a.start - b.start);
    this.cut.picked = key;
    this.drawCut();
  },
  // A stretch for the keyboard: after the last one, three seconds long.
  addPartAfter() {
    const start = Math.min(this.cut.parts.at(-1)?.end ?? 0, this.cut.seconds - shortest);
    this.addPart(start, Math.min(this.cut.seconds, start + 3));
  },
  // Stretches do not overlap: a neighbour stops the edge.
  movePart(part, side, t) {
    const list = this.cut.parts;
    const i = list.indexOf(part);
    if (side === "start") part.start = Math.max(list[i - 1]?.end ?? 0, Math.min(t, part.end - shortest));
    else part.end = Math.min(list[i + 1]?.start ?? this.cut.seconds, Math.max(t, part.start + shortest));
    this.drawCut();
  },
  setPartTime(part, side, event) {
    if (Number.isFinite(event.target.valueAsNumber)) this.movePart(part, side, event.target.valueAsNumber);
    event.target.value = part[side].toFixed(2);
  },
  setPartMember(part, event) {
    part.member = event.target.value;
    this.drawCut();
  },
  pickPart(part) {
    this.cut.picked = part.key;
    this.drawCut();
  },
  dropPart(part) {
    this.cut.parts = this.cut.parts.filter((p) => p.key !== part.key);
    this.drawCut();
  },
  playPart(part) {
    this.pickPart(part);
    return this.attempt(async () => {
      const response = await fetch(`/api/assets/${this.cut.hash}/sound?from=${part.start}&to=${part.end}`);
      if (response.ok) await player.playBytes(await response.arrayBuffer());
    });
  },
  get cutText() {
    const n = this.cut.parts.length;
    return n === 0 ? "Make lines" : n === 1 ? "Make a line" : `Make ${n} lines`;
  },
  async makeParts() {
    this.cut.busy = true;
    this.cut.error = "";
    const { hash, name } = this.cut;
    const parts = this.cut.parts.map(({ start, end, member, text }) => ({ start, end, member, text }));
    const done = await this.edit(() => post(`/api/scenes/${this.sceneId}/parts`, { revision: this.revision, hash, name, parts }));
    this.cut.busy = false;
    if (!done) {
      this.cut.error = this.error;
      return;
    }
    this.closeCutter();
    this.fitScore();
    this.say(done.lines === 1 ? "One line from the file." : `${done.lines} lines from the file.`);
  },
  fitScore() {
    score.view.fit();
  },
});

export const cutterPanel = () => mix(stretches(), cutterWave());
