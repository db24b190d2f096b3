// What the dials of a cast member have in common: held while they turn, sent when they are let go.
import { patch } from "../../front/api.js";

export const memberDials = () => ({
  get whose() {
    return `Applies to all lines of ${this.member?.roleName}.`;
  },
  turn({ dataset, value }, change) {
    const { id } = this.member;
    return this.letGo(dataset.held, Number(value), () => patch(`/api/members/${id}`, { revision: this.revision, ...change(dataset.key, Number(value)) }));
  },
  holdDial({ target }) {
    this.hold(target.dataset.held, Number(target.value));
  },
});
