// What was changed by hand in a line: switched off to compare, lifted off, gone to.
import { post } from "../../front/api.js";

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
        text: `${m.isVoice ? "Voice" : "Not voice"}, ${m.start.toFixed(2)} to ${m.end.toFixed(2)} s`,
      })) ?? []
    );
  },
  liftMark(mark) {
    const line = this.pickedLine ?? this.line;
    return this.touch(() => post(`/api/takes/${line.take.id}/marks/${mark.id}/lift`, { revision: this.revision, ids: [], on: false }));
  },
});
