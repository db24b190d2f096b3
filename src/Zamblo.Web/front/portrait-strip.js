// All that the face can do, side by side, to be looked through before it is used.
import { post } from "./api.js";
import { StagePainter } from "./stage.js";

const side = 132;

export const stripping = () => ({
  stripCells: [],
  async openStrip() {
    this.doing = "Trying all motions…";
    try {
      const { shapes, view, cells } = await post("/api/portraits/strip", { order: this.order, which: this.shown });
      const canvas = document.createElement("canvas");
      const painter = new StagePainter(canvas);
      painter.grain = await fetch("/api/grain")
        .then((r) => r.blob())
        .then(createImageBitmap);
      await painter.take(shapes);
      const ratio = Math.max(1, devicePixelRatio);
      painter.resize(Math.round(side * ratio), Math.round(side * ratio));
      painter.look(view);
      this.stripCells = cells.map(({ name }) => ({ name }));
      this.$refs.strip.showModal();
      await this.$nextTick();
      const shown = this.$refs.strip.querySelectorAll("canvas");
      cells.forEach(({ items }, i) => {
        const all = [];
        for (const item of items) all[item[0]] = item;
        painter.draw(all);
        [shown[i].width, shown[i].height] = [canvas.width, canvas.height];
        shown[i].getContext("2d").drawImage(canvas, 0, 0);
      });
      this.error = "";
    } catch (e) {
      this.error = e.message;
    }
    this.doing = "";
  },
  closeStrip() {
    this.$refs.strip.close();
  },
});
