// Calls something with every frame of the screen while something moves or somebody is at work; else now and then, so that a page that nobody touches
// takes next to nothing.
const rest = 100;
const awake = 1000;
let until = 0;
// Those that rest, and what wakes them.
const resting = new Set();

export function wake() {
  until = performance.now() + awake;
  for (const go of resting) go();
}

for (const name of ["pointermove", "pointerdown", "pointerup", "keydown", "wheel", "input", "change", "resize", "focus", "drop"])
  window.addEventListener(name, wake, { capture: true, passive: true });

// moves: whether there is something new with every frame.
export function everyFrame(work, moves) {
  const tick = () => {
    work();
    if (moves() || performance.now() < until) return void requestAnimationFrame(tick);
    const go = () => {
      clearTimeout(timer);
      resting.delete(go);
      requestAnimationFrame(tick);
    };
    const timer = setTimeout(go, rest);
    resting.add(go);
  };
  requestAnimationFrame(tick);
}
