// The camera that is held on somebody: on the face, or on all of the figure, wherever that one is in a frame.
const room = { face: 1.2, body: 1.08 };

// As frames tell it: near, behind, and whether it moves. The shadow, its first shape, goes along where the figure walks.
export function closeLook({ stands: { face, box, first } }, items, aspect, part) {
  const [left, top, width, height] = part === "body" ? box : face;
  const shadow = items[first];
  const walks = shadow && shadow[7] > 0;
  const x = walks && Math.abs(shadow[5] - (face[0] + face[2] / 2)) > face[2] / 2 ? shadow[5] : left + width / 2;
  const view = [x, top + height / 2, room[part] * Math.max(width, height * aspect)];
  return [...view, ...view, 1];
}
