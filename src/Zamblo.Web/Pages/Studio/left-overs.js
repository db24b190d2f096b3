// What was recorded when a tab was closed: it is found again, and used or thrown away.
import * as kept from "../../front/kept.js";
import { clock } from "../../front/score.js";

export const leftOvers = () => ({
  leftOvers: [],
  async findLeftOvers() {
    if (!this.scene) return;
    const list = await kept.leftOver(this.scene.production.id).catch(() => []);
    this.leftOvers = list.map((r) => {
      const who = this.scene.members.find((m) => m.id === r.member)?.roleName ?? "A recording";
      const when = new Date(r.begun).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" });
      return { ...r, name: `${who}, ${clock(r.seconds, true)}, ${when}` };
    });
  },
  async takeLeftOver(r) {
    this.openBooth({ mode: "found", line: this.scene.lines.find((l) => l.id === r.line) ?? null });
    Object.assign(this.booth, { mode: "record", member: r.member, text: r.text });
    this.rec.blob = await kept.load(r.id);
    Object.assign(this.rec, {
      url: URL.createObjectURL(this.rec.blob),
      state: "done",
      seconds: r.seconds,
      id: r.id,
      punch: this.booth.line ? r.punch : null,
      note: "Recorded earlier and not kept yet.",
    });
  },
  async dropLeftOver(r) {
    await kept.drop(r.id);
    await this.findLeftOvers();
  },
});
