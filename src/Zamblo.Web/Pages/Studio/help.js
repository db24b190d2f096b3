// The keys, on a page of their own.
import { act, onKey } from "./shared.js";

export const helpPanel = () => ({
  openHelp() {
    this.$refs.help.showModal();
  },
  closeHelp() {
    this.$refs.help.close();
  },
  init() {
    onKey(60, ({ name, control }) => !control && act({ "?": () => this.openHelp() }, name));
  },
});
