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
