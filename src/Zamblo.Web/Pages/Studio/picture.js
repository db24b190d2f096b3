// The picture: how large it is, how many frames a second.
import { patch } from "../../front/api.js";

const rowHeight = 84,
  mostShots = 6;
const shapes = {
  "1280x720": "16:9",
  "1920x1080": "16:9",
  "1080x1080": "1:1",
  "1080x1920": "9:16",
  "1080x1350": "4:5",
  "2560x1080": "21:9",
  "640x360": "16:9, small",
};

export const picturePanel = () => ({
  // Side by side: every shot in every size, before one is chosen.
  isComparing: false,
  ownSize: "",
  get sizeRows() {
    if (!this.isComparing || !this.scene) return [];
    const { shots, fps } = this.scene;
    const some = shots.length > mostShots ? shots.filter((_, i) => i % Math.ceil(shots.length / mostShots) === 0) : shots;
    return [...new Set([...this.sizes, this.sizeText])].map((size) => {
      const [w, h] = size.split("x").map(Number);
      const width = Math.max(16, Math.round((rowHeight * w) / h));
      const of = (s) => Math.min(this.scene.frames - 1, Math.round(((s.start + s.end) / 2) * fps));
      const picture = (s) => `/api/scenes/${this.sceneId}/frames/${of(s)}?size=${size}&width=${2 * width}&r=${this.version}`;
      return {
        size,
        isNow: size === this.sizeText,
        shape: shapes[size] ?? "",
        pictures: some.map((s, i) => ({ key: i, width, height: rowHeight, start: s.start, picture: picture(s) })),
      };
    });
  },
  compareSizes() {
    this.isComparing = true;
    this.$nextTick(() => this.$refs.sizes.focus({ preventScroll: true }));
  },
  closeSizes() {
    this.isComparing = false;
  },
  chooseSize(size) {
    return this.changeProduction({ size });
  },
  setOwnSize(event) {
    const size = event.target.value.trim().replace(/\s*[x×]\s*/i, "x");
    event.target.value = "";
    if (size) return this.changeProduction({ size });
  },
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
  get stillUrl() {
    return `/api/scenes/${this.sceneId}/frames/${this.frame}`;
  },
  openDubbing() {
    this.$dispatch("open-dubbing");
  },
  setRate(event) {
    return this.changeProduction({ rate: event.target.value });
  },
  get sizeText() {
    return this.scene ? `${this.scene.production.width}x${this.scene.production.height}` : "";
  },
});
