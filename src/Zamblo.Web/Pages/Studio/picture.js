// The picture: how large it is, how many frames a second.
import { patch } from "../../front/api.js";

export const picturePanel = () => ({
  sizes: ["1280x720", "1920x1080", "1080x1080", "1080x1920", "1080x1350", "2560x1080", "640x360"],
  setSize(event) {
    return this.changeProduction({ size: event.target.value });
  },
  changeProduction(change) {
    return this.edit(() => patch(`/api/productions/${this.scene.production.id}`, { revision: this.revision, ...change }));
  },
  setLettering(key, event) {
    return this.changeProduction({ lettering: { [key]: event.target.checked } });
  },
  setFilmTitle(event) {
    const title = event.target.value.trim();
    if (title !== this.scene.production.lettering.title) return this.changeProduction({ lettering: { title } });
  },
  openCaptions() {
    this.$dispatch("open-captions");
  },
  setRate(event) {
    return this.changeProduction({ rate: event.target.value });
  },
  get sizeText() {
    return this.scene ? `${this.scene.production.width}x${this.scene.production.height}` : "";
  },
});
