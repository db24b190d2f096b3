// Whoever and whatever is drawn at a place of the stage.
import { stage } from "./shared.js";

const isWithin = ([left, top, width, height], [x, y]) => x > left && x < left + width && y > top && y < top + height;
const isPicture = ({ first, count }) => stage.painter.shapes.slice(first, first + count).some((s) => s.mesh);

// A place of the pointer in pixels of the canvas that lies under the element, and in stage units: of those the view tells scale and place.
function pixelOf(event, element, { ratio }) {
  const { x, y } = element.getBoundingClientRect();
  return [(event.clientX - x) * ratio, (event.clientY - y) * ratio];
}
export function pointOf(event, element, over) {
  const [x, y] = pixelOf(event, element, over);
  const [scale, left, top] = over.view;
  return [(x - left) / scale, (y - top) / scale];
}

// A member or a prop; null where nothing is.
export function thingAt({ members, props }, frame, event, element, over) {
  const items = stage.frames?.get(frame, 0);
  if (!items) return null;
  const shape = stage.painter.shapeAt(items, ...pixelOf(event, element, over));
  const prop = props.find(({ shapes }) => shapes.some(([first, count]) => shape >= first && shape < first + count));
  if (prop) return { prop };
  const drawn = members.find(({ stands }) => shape > stands.first && shape < stands.first + stands.count);
  // A picture's own outline is not known here: its box is taken.
  const member = drawn ?? members.find(({ stands }) => isPicture(stands) && isWithin(stands.box, pointOf(event, element, over)));
  return member ? { member } : null;
}
