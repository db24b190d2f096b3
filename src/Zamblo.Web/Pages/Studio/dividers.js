// The notes are a prompt book with dividers, one open at a time. What is picked turns to its own; where each was left, it is found again.
const kept = "divider";
const names = ["Voice", "Face", "Acting", "Set", "Camera", "Sound", "Film"];

// Which dividers have something for what is picked: the first of them is turned to where the open one has nothing.
const homes = {
  line: ["Voice", "Face", "Acting", "Film"],
  word: ["Face", "Acting"],
  cue: ["Face"],
  clip: ["Acting"],
  shot: ["Camera"],
  light: ["Set"],
  sound: ["Sound"],
  prop: ["Set"],
  member: names,
};

export const dividers = () => ({
  dividers: names,
  divider: names.includes(localStorage.getItem(kept)) ? localStorage.getItem(kept) : names[0],
  turnTo(name) {
    if (name === this.divider) return;
    const box = document.getElementById("notes");
    const places = (this.places ??= {});
    places[this.divider] = box.scrollTop;
    this.divider = name;
    localStorage.setItem(kept, name);
    this.$dispatch("divider-turned", name);
    return this.$nextTick().then(() => (box.scrollTop = places[name] ?? 0));
  },
  async turnFor(what) {
    // Words say when the picked prop is held.
    if (this.prop && this.divider === "Set" && what !== "clip" && what !== "shot") return;
    if (!homes[what].includes(this.divider)) await this.turnTo(homes[what][0]);
    // What belongs to a pick stands at the top of its divider; the light belongs to the set, further down.
    if (what === "light") return document.getElementById("light")?.scrollIntoView({ block: "nearest" });
    if (what !== "member" && what !== "line") document.getElementById("notes").scrollTop = 0;
  },
  turnBy(step) {
    return this.turnTo(names[(names.indexOf(this.divider) + step + names.length) % names.length]);
  },
  // What the notes are about right now, in words.
  get about() {
    const scene = this.scene;
    if (!scene) return { title: "", more: "" };
    const roleOf = (id) => scene.members.find((m) => m.id === id)?.roleName ?? "";
    const several = (n, what) => (n > 1 ? `${n} ${what}s` : "");
    if (this.prop && this.divider === "Set") return { title: this.prop.name, more: "prop" };
    if (this.clip?.kind === "light") return { title: this.clip.title, more: "from then on" };
    if (this.clip) return { title: several(this.clipIds.length, "clip") || this.clip.title, more: `${this.clip.kind} of ${roleOf(this.clip.member)}` };
    if (this.hasPick) return { title: this.pickText, more: this.pickedLine.role };
    if (this.divider === "Sound" && this.soundId) return { title: scene.sounds.find((s) => s.id === this.soundId)?.name ?? "", more: "sound" };
    if (this.divider === "Film") return { title: scene.production.title, more: this.hasScenes ? scene.scene.title : "" };
    const line = this.line?.member === this.selectedMember ? this.line : null;
    if (line) return { title: `Line ${scene.lines.indexOf(this.line) + 1}`, more: line.role };
    return { title: this.member?.roleName ?? "", more: this.member ? "all lines" : "" };
  },
  get isPicked() {
    return this.hasPick || this.clip !== null || this.line !== null || (this.prop !== null && this.divider === "Set");
  },
  unpickAll() {
    if (this.prop && this.divider === "Set") return this.pickProp(null);
    if (this.clip) return this.pickClip(null);
    if (this.hasPick) return this.unpick();
    this.selectedLine = null;
  },
});
