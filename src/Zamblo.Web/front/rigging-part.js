// What can be said of the picked part: what it hangs on, what moves it, how it dangles, how far it goes.
const springs = {
  softly: { frequency: 1.4, damping: 0.3 },
  springy: { frequency: 3.2, damping: 0.2 },
  heavy: { frequency: 1.8, damping: 0.6 },
};
const dangleNames = [
  { key: "no", name: "No: it is firm" },
  { key: "softly", name: "Softly: hair, cloth" },
  { key: "springy", name: "Springy: ears, bells" },
  { key: "heavy", name: "Heavy: bags, tails" },
];
const round = (x) => Math.round(x * 100) / 100;

export const partDials = () => ({
  dangles: dangleNames,
  trying: null,
  get motions() {
    return this.sheet?.motions ?? [];
  },
  get partName() {
    return this.name(this.picked);
  },
  // Nothing hangs on what hangs on it.
  get parents() {
    const hangsOn = (id) => {
      for (let p = this.rig.parts.find((q) => q.id === id); p; p = this.rig.parts.find((q) => q.id === p.parent)) if (p.id === this.picked) return true;
      return false;
    };
    return this.rig.parts.filter((p) => !hangsOn(p.id) && !p.id.includes(".")).map((p) => ({ id: p.id, name: this.name(p.id) }));
  },
  change(set) {
    this.step();
    set(this.part);
    this.sortParts();
    this.drawHandles();
    return this.look();
  },
  // Whatever hangs on something stands after it.
  sortParts() {
    const sorted = [];
    const add = (p) => {
      if (sorted.includes(p)) return;
      const parent = this.rig.parts.find((q) => q.id === p.parent);
      if (parent) add(parent);
      sorted.push(p);
    };
    this.rig.parts.forEach(add);
    this.rig.parts = sorted;
  },
  hang(event) {
    return this.change((p) => (p.parent = event.target.value || undefined));
  },
  drive(event) {
    const motion = event.target.value;
    return this.change((p) => {
      p.motion = motion;
      const box = this.sheet.boxes[p.id];
      // The last piece of an arm or a leg needs an end.
      if (/^(arm|elbow|leg|knee)/.test(motion) && !p.tip && box) p.tip = [round(box[0] + box[2] / 2), round(box[1] + box[3])];
      if (/^(pupil|brow|eye)/.test(motion) && !p.reach) p.reach = [6, 6];
    });
  },
  get dangling() {
    const spring = this.part?.spring;
    if (!spring) return "no";
    const near = (s) => Math.abs(s.frequency - spring.frequency) + 4 * Math.abs(s.damping - spring.damping);
    return Object.keys(springs).reduce((a, b) => (near(springs[b]) < near(springs[a]) ? b : a));
  },
  dangle(event) {
    const kind = event.target.value;
    return this.change((p) => {
      if (kind === "no") delete p.spring;
      else p.spring = { turn: p.spring?.turn || 10, slide: p.spring?.slide ?? 0, ...springs[kind] };
    });
  },
  get swing() {
    return this.part?.spring?.turn ?? 0;
  },
  trySwing(event) {
    this.hold((p) => p.spring && (p.spring.turn = Number(event.target.value)));
  },
  get dials() {
    const part = this.part;
    if (!part) return [];
    const list = [];
    const dial = (id, name, min, max, step, value, set, unit = "") => list.push({ id, name, min, max, step, value, set, text: `${value}${unit}` });
    if (part.motion === "head") {
      const head = this.rig.head;
      dial("turn-limit", "Turns at most", 0, 30, 1, head.turnLimit ?? 30, (v) => (head.turnLimit = v), "°");
      dial("nod-limit", "Nods at most", 0, 20, 1, head.nodLimit ?? 18, (v) => (head.nodLimit = v), "°");
      dial("tilt-limit", "Tilts at most", 0, 20, 1, head.tiltLimit ?? 16, (v) => (head.tiltLimit = v), "°");
    } else if (/^(arm|elbow)/.test(part.motion ?? "")) dial("gain", "Follows the arm by", -2, 2, 0.1, round(part.gain ?? 1), (v) => (part.gain = v));
    else if (part.motion === "body") dial("breath", "Breathes by", 0, 0.04, 0.002, this.rig.breath ?? 0.012, (v) => (this.rig.breath = v));
    else {
      dial("surface", "Lies on the head's globe", 0, 1.3, 0.05, round(part.surface ?? 0), (v) => (part.surface = v));
      dial("shift", "Or moves against the head", -0.4, 0.4, 0.02, round(part.shift ?? 0), (v) => (part.shift = v));
    }
    return list;
  },
  hold(set) {
    this.trying ??= this.state();
    set(this.part);
    this.later();
  },
  later() {
    clearTimeout(this.dialTimer);
    this.dialTimer = setTimeout(() => this.look(), 60);
  },
  tryDial(dial, event) {
    this.trying ??= this.state();
    dial.set(Number(event.target.value));
    this.later();
  },
  letGoDial() {
    clearTimeout(this.dialTimer);
    if (this.trying && this.trying !== this.state()) this.step(this.trying);
    this.trying = null;
    return this.look();
  },
  get isMouth() {
    return !!this.rig && this.picked === this.rig.mouth.part;
  },
  get mouthStyle() {
    return this.rig?.mouth.style ?? "lips";
  },
  get mouthStyles() {
    const names = [
      { key: "lips", name: "anew, with lips" },
      { key: "muzzle", name: "anew, without lips" },
      { key: "slot", name: "anew, as a slot" },
      { key: "beak", name: "anew, as a beak" },
    ];
    const drawn = Object.keys(this.rig?.mouth.drawn ?? {}).length;
    if (drawn > 1) names.unshift({ key: "drawn", name: `as ${drawn} drawn mouths` });
    if (drawn === 1) names.unshift({ key: "stretched", name: "the drawn one, stretched" });
    return names;
  },
  drawMouth(event) {
    return this.change(() => (this.rig.mouth.style = event.target.value));
  },
});
