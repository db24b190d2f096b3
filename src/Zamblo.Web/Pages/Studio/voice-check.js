// Who has which voice, at a glance: a strip for each member over the whole scene, and what is not as it should be.
import { player } from "./shared.js";

export const voiceCheckPanel = () => ({
  checking: false,
  get strips() {
    if (!this.scene || !this.checking) return [];
    const { duration, lines, members } = this.scene;
    const spoken = lines.filter((l) => l.start !== null);
    const whole = spoken.reduce((sum, l) => sum + l.duration, 0) || 1;
    return members.map((m) => {
      const own = spoken.filter((l) => l.member === m.id || l.also.includes(m.id));
      const seconds = own.reduce((sum, l) => sum + l.duration, 0);
      return {
        id: m.id,
        name: m.roleName,
        text: own.length === 0 ? "says nothing" : `${Math.round((100 * seconds) / whole)} %`,
        spans: own.map((l) => ({
          key: l.id,
          line: l,
          ink: m.ink,
          left: `${(100 * l.start) / duration}%`,
          width: `max(2px, ${(100 * l.duration) / duration}%)`,
          isFaint: l.isMute || l.isOffStage || l.listening,
          title: `${m.roleName}: ${l.written || "no words yet"}`,
        })),
      };
    });
  },
  // Each names the line to go to, if there is one.
  get voiceFaults() {
    if (!this.scene || !this.checking) return [];
    const { lines, members } = this.scene;
    const faults = [];
    const spoken = members.filter((m) => lines.some((l) => l.member === m.id && l.take?.kind === "synthesis"));
    for (const [i, a] of spoken.entries())
      for (const b of spoken.slice(i + 1))
        if (a.voice === b.voice) faults.push({ key: `${a.id}${b.id}`, text: `${a.roleName} and ${b.roleName} have the same voice.`, line: null });
    for (const line of lines) {
      const { id } = line;
      const said = line.written ? `“${line.written.length > 24 ? `${line.written.slice(0, 24)}…` : line.written}”` : "a line without words";
      if (!line.take) faults.push({ key: id, text: `No voice yet: ${line.role}, ${said}`, line });
      else if (!line.listening && !line.phones?.length) faults.push({ key: id, text: `Nothing is said in it: ${line.role}, ${line.takeText}`, line });
      else if (line.isStale && line.take.name !== members.find((m) => m.id === line.member).voice)
        faults.push({ key: id, text: `Another voice than ${line.role} has now: ${said}`, line });
    }
    return faults.slice(0, 30);
  },
  goToSpan(line) {
    this.select(line);
    this.goTo(line.start + (line.phones?.[0]?.[1] ?? 0));
  },
  goToFault(fault) {
    if (!fault.line) return;
    this.select(fault.line);
    if (fault.line.start !== null) player.seek(fault.line.start);
  },
});
