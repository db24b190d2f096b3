// Whoever is drawn at a place of the stage.
import { stage } from "./shared.js";

const isWithin = ([left, top, width, height], [x, y]) => x > left && x < left + width && y > top && y < top + height;
const isPicture = ({ first, count }) => stage.painter.shapes.slice(first, first + count).some((s) => s.mesh);

// pixel is a place of the canvas, point the same in stage units; null where nobody is.
export function memberAt(members, frame, pixel, point) {
  const items = stage.frames?.get(frame, 0);
  if (!items) return null;
  const shape = stage.painter.shapeAt(items, ...pixel);
  const drawn = members.find(({ stands }) => shape > stands.first && shape < stands.first + stands.count);
  // A picture's own outline is not known here: its box is taken.
  return drawn ?? members.find(({ stands }) => isPicture(stands) && isWithin(stands.box, point)) ?? null;
}
