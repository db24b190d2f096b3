// How the shot at the playhead begins.
import { patch } from "../../front/api.js";

const over = { over: ["Takes", 0.1, 4, 0.1, "s", "Its middle is where the shot begins."] };

export const shotChange = () => ({
  changes: [
    { key: "Cut", name: "With a cut" },
    { key: "Dissolve", name: "Out of the one before" },
    { key: "Dip", name: "Through black" },
    { key: "Wipe", name: "Behind an edge that passes" },
    { key: "Pass", name: "Behind something that passes" },
  ],
  get changeDials() {
    const { shot } = this;
    return shot?.clip && shot.change !== "Cut" ? this.rows(over, shot, `shot:${shot.clip}`, "Applies to this shot.") : [];
  },
  setShotChange(event) {
    return this.changeShot({ change: event.target.value });
  },
  turnChange({ target: { dataset, value } }) {
    const { clip } = this.shot;
    return this.letGo(dataset.held, Number(value), () => patch(`/api/clips/${clip}`, { revision: this.revision, over: Number(value) }));
  },
});
