// Turns that meet: two lines that are neighbouring parts of one recording. So near, in seconds, are turns of one talk.
const near = 1;
const known = new WeakMap();

// The part of a recording that a line has; an engine's words and those that follow a guide have times of their own.
const used = (line) => (line?.take && line.take.kind !== "synthesis" && !line.take.guide ? line.takes.find((t) => t.isUsed && t.from != null) : null);

// Used parts of recordings by their sound, once for each state of a scene.
function parts(scene) {
  if (known.has(scene)) return known.get(scene);
  const bySound = new Map();
  for (const line of scene.lines) {
    const take = used(line);
    if (!take || line.start == null) continue;
    if (!bySound.has(take.hash)) bySound.set(take.hash, []);
    bySound.get(take.hash).push({ line, from: take.from, to: take.to });
  }
  known.set(scene, bySound);
  return bySound;
}

// The line that a line meets at its "start" or its "end", or null.
export function meets(scene, line, side) {
  const take = used(line);
  if (!take) return null;
  const apart = (p) => (side === "end" ? p.from - take.to : take.from - p.to);
  const others = (parts(scene).get(take.hash) ?? []).filter((p) => p.line.id !== line.id && apart(p) > -0.02 && apart(p) < near);
  const other = others.reduce((best, p) => (best && apart(best) <= apart(p) ? best : p), null)?.line ?? null;
  // Where a hand has trimmed, or the tempo is another, each has its own edge.
  const [first, second] = side === "end" ? [line, other] : [other, line];
  return other && !first.care.trimEnd && !second.care.trimStart && first.care.speed === second.care.speed ? other : null;
}

// Seconds of the recording between two turns.
const gap = (first, second) => Math.max(0, used(second).from - used(first).to);
const middle = (word) => (word[1] + word[2]) / 2;

// Words that go over when a line's side is moved by so many seconds, and to whom.
export function goingOver(scene, line, side, by) {
  const other = meets(scene, line, side);
  if (!other || !by) return null;
  const [first, second] = side === "end" ? [line, other] : [other, line];
  // How far into the one and into the other.
  const after = side === "end" ? by - gap(first, second) : by;
  const before = side === "end" ? by : by + gap(first, second);
  if (after <= 0 && before >= 0) return null;
  const [giver, taker] = after > 0 ? [second, first] : [first, second];
  const words = (giver.words ?? []).filter((w) => (after > 0 ? middle(w) < after : middle(w) >= giver.duration + before));
  const said = words.length > 4 ? `${words.length} words` : words.length ? `“${words.map((w) => w[0]).join(" ")}”` : "no word";
  return { taker, text: `${said} to ${scene.members.find((m) => m.id === taker.member).roleName}` };
}

// Where in the scene the end of a line lies when one word more, or one less, is this line's; null where nothing would be left.
export function boundaryByWord(scene, line, step) {
  const other = meets(scene, line, "end");
  const words = (step > 0 ? other : line)?.words ?? [];
  if (!other || words.length < 2) return null;
  if (step > 0) return line.start + line.duration + gap(line, other) + (words[0][2] + words[1][1]) / 2;
  return line.start + (words.at(-2)[2] + words.at(-1)[1]) / 2;
}
