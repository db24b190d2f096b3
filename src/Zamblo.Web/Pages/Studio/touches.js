// What was changed by hand in a line: switched off to compare, lifted off, gone to.
import { post } from "../../front/api.js";
import { unmarked } from "../../front/sounds-heard.js";

export const touchesPanel = () => ({
  get touches() {
    return (this.pickedLine ?? this.line)?.touches ?? [];
  },
  switchTouch(touch) {
    return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/switch`, { revision: this.revision, ids: [touch.id], on: !touch.on }));
  },
  switchAll() {
    const on = !this.touches.some((t) => t.on);
    return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/switch`, { revision: this.revision, ids: this.touches.map((t) => t.id), on }));
  },
  get switchText() {
    return this.touches.some((t) => t.on) ? "All off" : "All on";
  },
  liftTouch(touch) {
    return this.touch(() => post(`/api/scenes/${this.sceneId}/touches/reset`, { revision: this.revision, ids: [touch.id] }), "Touch-up lifted off.");
  },
  goToTouch(touch) {
    const line = this.pickedLine ?? this.line;
    const cues = line.cues.filter((c) => c[6] === touch.id).map((c) => c[5]);
    this.pick({ line: line.id, cues });
    this.goTo(line.start + (touch.start + touch.end) / 2);
  },
  get marks() {
    return (
      (this.pickedLine ?? this.line)?.marks?.map((m) => ({
        ...m,
        text: `${m.isVoice ? "Voice" : m.sound ? `Somebody ${m.sound}` : "Not voice"}, ${m.start.toFixed(2)} to ${m.end.toFixed(2)} s`,
      })) ?? []
    );
  },
  // Laughter and the like that was found, but for what a hand has marked.
  get sounds() {
    const line = this.pickedLine ?? this.line;
    return line ? unmarked(line).map((s) => ({ name: s[0], start: s[1], end: s[2], of: s, text: `${s[0]}, ${s[1].toFixed(2)} to ${s[2].toFixed(2)} s` })) : [];
  },
  goToSound(sound) {
    const line = this.pickedLine ?? this.line;
    this.pickHeard(line, sound.of);
    this.goTo(line.start + sound.start);
  },
  quietSound(sound) {
    const line = this.pickedLine ?? this.line;
    return this.touch(
      () => post(`/api/takes/${line.take.id}/marks`, { revision: this.revision, start: sound.start, end: sound.end, isVoice: false }),
      "Nothing is made of it.",
    );
  },
  liftMark(mark) {
    const line = this.pickedLine ?? this.line;
    return this.touch(() => post(`/api/takes/${line.take.id}/marks/${mark.id}/lift`, { revision: this.revision, ids: [], on: false }));
  },
});
