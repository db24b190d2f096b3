// Moods, gestures and looks that are dragged from the notes onto a word, a line, or a moment of the score.
const mark = "application/x-zamblo-clip";

export const carrying = () => ({
  carry(event, kind, key, name) {
    event.dataTransfer.setData(mark, JSON.stringify({ kind, key, name }));
    event.dataTransfer.effectAllowed = "copy";
  },
  carryOver(event) {
    if (!event.dataTransfer.types.includes(mark)) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = "copy";
  },
  // Where it was dropped: a member, a stretch of the scene in seconds, or for a gesture the moment of its stroke.
  lay(event, { member, start, end, at }) {
    const data = event.dataTransfer.getData(mark);
    if (!data) return;
    event.preventDefault();
    const { kind, key, name } = JSON.parse(data);
    const order = kind === "Gesture" ? { start: at, at } : { start, end };
    return this.layClip({ member, kind, name: key, ...order }, `${name} laid from ${(kind === "Gesture" ? at : start).toFixed(2)} s.`);
  },
  // On a word of a line, or on the line.
  layOnLine(event, line, word) {
    if (line.start === null) return;
    const w = line.words?.[word];
    const spoken = line.phones?.length ? [line.phones[0][1], line.phones.at(-1)[2]] : [0, line.duration];
    const [start, end] = w ? [w[1], w[2]] : spoken;
    const accents = (line.accents ?? []).filter(([t]) => t >= start && t <= end).sort((a, b) => b[1] - a[1]);
    const at = line.start + (accents[0]?.[0] ?? (w ? (start + end) / 2 : start));
    return this.lay(event, { member: line.member, start: line.start + start, end: line.start + end, at });
  },
});
