// What all panels of the studio share and Alpine must not wrap: the sound, the stage, the score, and who listens to keys.
import { Player } from "../../front/player.js";
import { itemsOf } from "../../front/stage.js";
import { wake } from "../../front/ticking.js";

export const player = new Player();

// The drawn stage: its painter, the frames of the scene, and what is shown right now.
export const stage = {
  painter: null,
  frames: null,
  shown: -1,
  // Somebody may lay something over what is shown.
  onShown() {},
  // Or look at all that is drawn.
  onDrawn() {},
  // A frame that is looked at once.
  showOnce(answer) {
    stage.painter.draw(itemsOf(answer.frames[0], answer.looks));
  },
  // A frame with some of its shapes changed.
  showOver(frame, changes) {
    const now = stage.frames.get(frame);
    if (!now) return;
    const items = now.slice();
    items.look = now.look;
    for (const change of changes) items[change[0]] = change;
    stage.painter.draw(items);
  },
  showAgain() {
    stage.shown = -1;
    wake();
  },
};

// The score is made when its panel is there; until then nobody needs it.
export const score = {
  view: null,
  // The scene as it came, without what Alpine lays around it.
  raw: null,
};

// Whether keys without Ctrl or Alt that are letters, digits or signs do something.
export const letters = { on: localStorage.getItem("letters") !== "off" };

// Keys go to whoever has first say and takes them; the order is small for what is picked, large for the page.
const listeners = [];
export function onKey(order, take) {
  listeners.push({ order, take });
  listeners.sort((a, b) => a.order - b.order);
}
export function listenToKeys(isBusy) {
  document.addEventListener("keydown", (e) => {
    if (isBusy() || document.querySelector("dialog[open]")) return;
    const typing = e.target.closest?.("input:not([type=range], [type=checkbox]), textarea, select, [contenteditable]");
    if (typing || (e.target.closest?.("input[type=range]") && e.key.startsWith("Arrow"))) return;
    // A control that has the focus is what Enter and Space press.
    if ((e.key === "Enter" || e.key === " ") && e.target.closest?.("button, a, summary, [role=tab]")) return;
    if (!letters.on && e.key.length === 1 && e.key !== " " && !e.ctrlKey && !e.metaKey && !e.altKey) return;
    const key = { name: e.key.length === 1 ? e.key.toLowerCase() : e.key, control: e.ctrlKey || e.metaKey, shift: e.shiftKey, alt: e.altKey, target: e.target };
    for (const { take } of listeners)
      if (take(key)) {
        e.preventDefault();
        return;
      }
  });
}
// One of a map of names to actions; whether it was there.
export function act(map, name) {
  const action = map[name];
  if (!action) return false;
  return action() !== null;
}
