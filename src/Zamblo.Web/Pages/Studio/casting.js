// Casting in the studio: somebody new for the cast, or another character for a member.
import { post } from "../../front/api.js";
import { castingGrid } from "../../front/casting-grid.js";
import { mix } from "./mix.js";

const choosing = () => ({
  isRecast: false,
  openCasting({ recast }) {
    this.isRecast = recast;
    this.loadCharacters();
    this.$refs.casting.showModal();
  },
  // Whoever was made meanwhile, in another tab, is there.
  refreshCasting() {
    if (this.$refs.casting.open) this.loadCharacters();
  },
  closeCasting() {
    this.still();
    this.$refs.casting.close();
  },
  get offer() {
    return this.isRecast ? "Play the role with" : "Add to the cast";
  },
  get castingTitle() {
    return this.isRecast ? `Who plays ${this.member?.roleName ?? ""}?` : "Who joins the cast?";
  },
  async pickCard(card) {
    this.closeCasting();
    if (this.isRecast) return this.changeMember({ character: card.key });
    const done = await this.edit(
      () => post(`/api/productions/${this.scene.production.id}/members`, { revision: this.revision, character: card.key }),
      `${card.name} has joined the cast.`,
    );
    if (done?.id) this.selectedMember = done.id;
  },
});

export const castingPanel = () => mix(choosing(), castingGrid());
