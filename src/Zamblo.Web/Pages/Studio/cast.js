// The cast: who is in it, under which name.
import { patch, post, remove } from "../../front/api.js";
import { mix } from "./mix.js";
import { standing } from "./standing.js";

const cast = () => ({
  openCastAdd() {
    this.$dispatch("open-casting", { recast: false });
  },
  openRecast() {
    this.$dispatch("open-casting", { recast: true });
  },
  get characterName() {
    return this.member?.characterName;
  },
  // Changed in the Wardrobe, or drawn over, since it was cast here.
  get newer() {
    return this.member?.newer ?? null;
  },
  get newerPicture() {
    return this.newer ? `/api/characters/${this.newer.key}/picture` : "";
  },
  get wardrobe() {
    return this.member ? `/wardrobe?from=${this.member.character.split("~")[0]}` : "";
  },
  // From the Wardrobe or from Casting, perhaps, where it was changed meanwhile.
  comeBack() {
    if (this.member?.isOwn) return this.reload();
  },
  takeNewer() {
    const { id, newer } = this.member;
    return this.edit(
      () => patch(`/api/members/${id}`, { revision: this.revision, character: newer.key }),
      `${newer.name} as it is now, in every scene; all that was set by hand stays.`,
    );
  },
  removeMember() {
    const { id, roleName } = this.member;
    const lines = this.scene.lines.filter((l) => l.member === id).length;
    const say = `${roleName} has left${lines ? `, with ${lines === 1 ? "one line" : `${lines} lines`} of this scene` : ""}.`;
    return this.edit(() => remove(`/api/members/${id}?revision=${this.revision}`), say);
  },
  renameMember(event) {
    const roleName = event.target.value.trim();
    const { id } = this.member;
    if (!roleName || roleName === this.member.roleName) return;
    return this.edit(() => patch(`/api/members/${id}`, { revision: this.revision, roleName }), null, { field: event.target });
  },
  get otherMembers() {
    return (this.scene?.members ?? []).filter((m) => m.id !== this.selectedMember);
  },
  swapWith(event) {
    const second = event.target.value;
    const first = this.selectedMember;
    event.target.value = "";
    if (second) return this.edit(() => post(`/api/scenes/${this.sceneId}/swap`, { revision: this.revision, first, second }), "Their lines are changed over.");
  },
});

export const castPanel = () => mix(cast(), standing());
