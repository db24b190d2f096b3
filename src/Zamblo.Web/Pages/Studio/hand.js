// The hand that performs: where the pointer is, or what keys or a game controller make of it.
import { stage } from "./shared.js";

// A stick that is let go is never quite in its middle.
const slack = 0.14;
const away = (axis = 0) => (Math.abs(axis) < slack ? 0 : (Math.sign(axis) * (Math.abs(axis) - slack)) / (1 - slack));

// Kept out of the component: it changes with every movement of the hand.
export const hand = { x: 0, y: 0, tilt: 0, keys: new Set(), busy: false, points: [] };

export const performingHand = () => ({
  liveBegin() {
    const canvas = document.getElementById("stage");
    // Whoever performs is seen, wherever the camera would be.
    hand.wasWhole = stage.painter.isWhole;
    stage.painter.isWhole = true;
    stage.showAgain();
    Object.assign(hand, { byPad: false, padFree: false });
    hand.move = (e) => {
      hand.byPad = false;
      const box = canvas.getBoundingClientRect();
      hand.x = Math.max(-1, Math.min(1, (2 * (e.clientX - box.left)) / box.width - 1));
      hand.y = Math.max(-1, Math.min(1, (2 * (e.clientY - box.top)) / box.height - 1));
      hand.moved ??= performance.now();
      this.live();
    };
    hand.wheel = (e) => {
      e.preventDefault();
      hand.tilt = Math.max(-1, Math.min(1, hand.tilt + Math.sign(e.deltaY) * 0.12));
      this.live();
    };
    hand.down = (e) => {
      if (e.key === "Escape") this.cancelPerforming();
      else if (e.key === " " || e.key === "Enter") this.stopPerforming();
      else if (/^Arrow|^[qe]$/.test(e.key)) hand.keys.add(e.key);
      else return;
      e.preventDefault();
      e.stopPropagation();
    };
    hand.up = (e) => hand.keys.delete(e.key);
    window.addEventListener("pointermove", hand.move);
    canvas.addEventListener("wheel", hand.wheel, { passive: false });
    document.addEventListener("keydown", hand.down, true);
    document.addEventListener("keyup", hand.up, true);
  },
  liveEnd() {
    window.removeEventListener("pointermove", hand.move);
    document.getElementById("stage").removeEventListener("wheel", hand.wheel);
    document.removeEventListener("keydown", hand.down, true);
    document.removeEventListener("keyup", hand.up, true);
    stage.painter.isWhole = hand.wasWhole;
    stage.showAgain();
  },
  // Keys draw the hand to their side while they are held; let go, it comes back.
  keysMove() {
    const held = (key) => (hand.keys.has(key) ? 1 : 0);
    const towards = (now, target, isHeld) => (isHeld || hand.byKeys ? now + (target - now) * 0.18 : now);
    const x = held("ArrowRight") - held("ArrowLeft");
    const y = held("ArrowDown") - held("ArrowUp");
    const tilt = held("e") - held("q");
    if (x || y || tilt) hand.byKeys = true;
    hand.x = towards(hand.x, 0.8 * x, x);
    hand.y = towards(hand.y, 0.8 * y, y);
    hand.tilt = towards(hand.tilt, 0.8 * tilt, tilt);
    if (hand.byKeys && !x && !y && !tilt && Math.hypot(hand.x, hand.y, hand.tilt) < 0.01) hand.byKeys = false;
  },
  // A controller with the standard layout (W3C Gamepad, 6): the left stick moves, the right one tilts, the lower button keeps, the right one does not.
  padMove() {
    const pad = [...(navigator.getGamepads?.() ?? [])].find((p) => p?.connected);
    if (!pad) return;
    const [x, y, tilt] = [away(pad.axes[0]), away(pad.axes[1]), away(pad.axes[2])];
    if (x || y || tilt) hand.byPad = true;
    if (hand.byPad) Object.assign(hand, { x, y, tilt });
    const [keep, drop] = pad.buttons.map((b) => b.pressed);
    // What was held down before it began is no answer.
    if (keep && hand.padFree) this.stopPerforming();
    else if (drop && hand.padFree) this.cancelPerforming();
    hand.padFree = !keep && !drop;
  },
  // Where the pointer is on the stage, in its own units, whatever the shape of the picture.
  stagePoint() {
    const { width, height, view } = this.scene.production;
    const [x, y, units] = stage.painter.shownLook ?? view;
    return [x + (hand.x * units) / 2, y + (hand.y * units * height) / width / 2];
  },
});
