// The camera that is held on somebody: on the face, or on all of the figure, wherever that one is in a frame.
const room = { face: 1.2, body: 1.08 };

// As frames tell it: near, behind, and whether it moves. The shadow, its first shape, is below the figure wherever that one walks, seen or not.
export function closeLook({ stands: { face, box, first } }, items, aspect, part) {
  const [left, top, width, height] = part === "body" ? box : face;
  const view = [items[first]?.[5] ?? left + width / 2, top + height / 2, room[part] * Math.max(width, height * aspect)];
  return [...view, ...view, 1];
}
