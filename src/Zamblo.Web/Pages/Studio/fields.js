// Fields that show what the server has, and let nobody's news write over what is being typed into them.
import Alpine from "@alpinejs/csp";

Alpine.directive("field", (el, { expression }, { evaluateLater, effect, cleanup }) => {
  const read = evaluateLater(expression);
  let known = "";
  let isTyped = false;
  const show = () => {
    if (!isTyped && el.value !== known) el.value = known;
  };
  const typed = () => (isTyped = true);
  const done = () => (isTyped = false);
  el.addEventListener("input", typed);
  // Before what sends it: from then on the answer counts.
  el.addEventListener("change", done, true);
  el.addEventListener("blur", done);
  cleanup(() => {
    el.removeEventListener("input", typed);
    el.removeEventListener("change", done, true);
    el.removeEventListener("blur", done);
  });
  effect(() =>
    read((value) => {
      known = value === null || value === undefined ? "" : String(value);
      show();
    }),
  );
});

// A box or a choice that has been ticked stays as the hand has set it until its edit is through: news of an earlier state change nothing.
Alpine.directive("tick", (el, { expression }, { evaluateLater, effect, cleanup }) => {
  const read = evaluateLater(expression);
  const readWaiting = evaluateLater("waiting");
  let known = false;
  let isHand = false;
  const byHand = () => (isHand = true);
  el.addEventListener("change", byHand, true);
  cleanup(() => el.removeEventListener("change", byHand, true));
  // One effect: Alpine lets go of a directive's last one only.
  effect(() => {
    read((value) => (known = Boolean(value)));
    readWaiting((waiting) => (isHand &&= waiting > 0));
    if (!isHand) el.checked = known;
  });
});
