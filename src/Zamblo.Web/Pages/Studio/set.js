// Where a scene plays: its set, chosen by looking.
export const setPanel = () => ({
  setSought: "",
  get setName() {
    return this.scene.scene.backdrops.find((b) => b.key === this.scene.scene.backdrop)?.name ?? "";
  },
  get setCards() {
    const text = this.setSought.trim().toLowerCase();
    return (this.scene?.scene.backdrops ?? [])
      .filter((b) => !text || b.name.toLowerCase().includes(text))
      .map((b) => ({ ...b, isNow: b.key === this.scene.scene.backdrop }));
  },
  openSets() {
    this.setSought = "";
    this.$refs.sets.showModal();
  },
  closeSets() {
    this.$refs.sets.close();
  },
  takeSet(set) {
    this.closeSets();
    if (!set.isNow) return this.changeScene({ backdrop: set.key });
  },
});
