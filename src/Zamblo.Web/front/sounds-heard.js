// What a voice does in a line that is no speech, as it was found: [name, start, end, confidence, kind] each. What a hand has marked is told by its mark.
export const unmarked = (line) => (line.sounds ?? []).filter(([, start, end]) => !line.marks?.some((m) => m.start < end - 0.01 && m.end > start + 0.01));
