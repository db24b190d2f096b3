// The keys, on a page of their own: searched, and single letters switched off for whoever dictates or hits them by chance (WCAG 2.1, 2.1.4).
import { keys } from "./keys.js";
import { act, letters, onKey } from "./shared.js";

export const helpPanel = () => ({
  keyText: "",
  hasLetters: letters.on,
  get keyGroups() {
    const text = this.keyText.trim().toLowerCase();
    const found = keys.filter((k) => !text || k.join(" ").toLowerCase().includes(text));
    return [...new Set(found.map((k) => k[0]))].map((name) => ({
      name,
      keys: found.filter((k) => k[0] === name).map(([, press, does]) => ({ id: press + does, press, does })),
    }));
  },
  setLetters(event) {
    this.hasLetters = letters.on = event.target.checked;
    localStorage.setItem("letters", letters.on ? "on" : "off");
  },
  openHelp() {
    this.keyText = "";
    this.$refs.help.showModal();
  },
  closeHelp() {
    this.$refs.help.close();
  },
  init() {
    onKey(60, ({ name, control }) => !control && act({ "?": () => this.openHelp() }, name));
  },
});
