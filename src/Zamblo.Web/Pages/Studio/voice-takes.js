// The takes of the selected line: which is in use, what tells them apart, a star and a note.
import { get, patch, post, remove } from "../../front/api.js";
import { voiceName } from "./voice-names.js";

const day = (date) => new Date(date).toLocaleDateString([], { day: "numeric", month: "short" });
const time = (date) => new Date(date).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });

// How a take looks: so many bars, read once for each.
const bars = 60;
const asked = new Set();
const pathOf = (peaks) => Array.from(peaks, (p, i) => (([x, h]) => `M${x} ${8 - h}V${8 + h}`)([i + 0.5, Math.max(0.4, 7.5 * Math.sqrt(p / 255))])).join("");

export const voiceTakes = () => ({
  notedTake: null,
  waves: {},
  loadWaves() {
    for (const { id, hash, from, to } of this.line?.takes ?? []) {
      if (asked.has(id)) continue;
      asked.add(id);
      get(`/api/assets/${hash}/peaks?from=${from}&to=${to}&columns=${bars}`)
        .then(({ peaks }) => (this.waves[id] = pathOf(Uint8Array.from(atob(peaks), (c) => c.charCodeAt(0)))))
        // It is looked at again when the line is.
        .catch(() => asked.delete(id));
    }
  },
  get takes() {
    return (this.line?.takes ?? []).map((t, i) => {
      const what = t.kind === "synthesis" ? voiceName(this.voices, t.name) : t.kind === "recording" ? "Recorded" : t.name;
      const when = day(t.created) === day(Date.now()) ? time(t.created) : `${day(t.created)}, ${time(t.created)}`;
      const text = [what, t.delivery?.toLowerCase(), when].filter((x) => x).join(", ");
      return { ...t, text, number: i + 1, seconds: `${t.duration.toFixed(1)} s`, isNoted: t.id === this.notedTake, wave: this.waves[t.id] ?? "" };
    });
  },
  useTake(take) {
    const { id } = this.line;
    if (!take.isUsed) return this.edit(() => post(`/api/lines/${id}/use`, { revision: this.revision, take: take.id }), `Take ${take.number} is in use.`);
  },
  // One key goes through the takes: compare by listening.
  nextTake() {
    const list = this.takes;
    if (list.length > 1) return this.useTake(list[(list.findIndex((t) => t.isUsed) + 1) % list.length]);
  },
  deleteTake(take) {
    return this.edit(() => remove(`/api/takes/${take.id}?revision=${this.revision}`), `Take ${take.number} deleted.`);
  },
  starTake(take) {
    return this.edit(() => patch(`/api/takes/${take.id}`, { revision: this.revision, isStarred: !take.isStarred }));
  },
  openNote(take) {
    this.notedTake = this.notedTake === take.id ? null : take.id;
    this.$nextTick(() => document.querySelector(`[aria-label="Note on take ${take.number}"]:not(button)`)?.focus());
  },
  noteTake(take, event) {
    const note = event.target.value;
    this.notedTake = null;
    if (note !== take.note) return this.edit(() => patch(`/api/takes/${take.id}`, { revision: this.revision, note }), null, { field: event.target });
  },
  hearIn() {
    this.$dispatch("hear-in", this.line);
  },
});
