// Draws drawing lists on a canvas, exactly as the server's rasteriser does.
export const stageWidth = 1280;
export const stageHeight = 720;

export class FrameStore {
  // Frames come in chunks and are kept; url(from, count) gives the address of a chunk.
  constructor(url, frameCount, chunk = 50) {
    this.url = url;
    this.frameCount = frameCount;
    this.chunk = chunk;
    this.chunks = new Map();
    this.onArrival = () => {};
  }

  // The items of a frame, or null while they are on the way; asks for what lies ahead as well.
  get(frame, ahead = 2) {
    const at = Math.floor(frame / this.chunk);
    for (let c = at; c <= at + ahead && c * this.chunk < this.frameCount; c++) this.request(c);
    const chunk = this.chunks.get(at);
    return Array.isArray(chunk) ? (chunk[frame - at * this.chunk] ?? null) : this.early?.[0] === frame ? this.early[1] : null;
  }

  // One frame that came ahead of the chunk that it lies in.
  first({ from, frames }) {
    const items = [];
    for (const change of frames[0]) items[change[0]] = change;
    this.early = [from, items];
  }

  request(c) {
    if (this.chunks.has(c)) return this.chunks.get(c);
    const loading = fetch(this.url(c * this.chunk, this.chunk))
      .then((r) => (r.ok ? r.json() : Promise.reject(new Error(r.status))))
      .then((data) => {
        let items = [];
        const frames = data.frames.map((changes) => {
          items = items.slice();
          for (const change of changes) items[change[0]] = change;
          return items;
        });
        this.chunks.set(c, frames);
        this.onArrival();
      })
      .catch(() => this.chunks.delete(c));
    this.chunks.set(c, loading);
    return loading;
  }
}

export class StagePainter {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.paths = new Map();
    this.grain = null;
  }

  async load(shapesUrl, grainUrl = "/api/grain") {
    const [shapes, grain] = await Promise.all([
      fetch(shapesUrl).then((r) => r.json()),
      this.grain ??
        fetch(grainUrl)
          .then((r) => r.blob())
          .then(createImageBitmap),
    ]);
    this.grain = grain;
    this.take(shapes);
  }

  // Shapes that have come already.
  take(shapes) {
    this.shapes = shapes.shapes;
    this.backCount = shapes.back;
    this.paths.clear();
    this.back = null;
  }

  // Fits the picture to the canvas in the shape of width x height; returns whether the size changed.
  resize(width, height) {
    if (this.canvas.width === width && this.canvas.height === height) return false;
    this.canvas.width = width;
    this.canvas.height = height;
    this.back = null;
    return true;
  }

  // What is shown of the stage: its middle and stage units across, as the server says; all of it where nothing is said.
  look(at) {
    if (String(at) === String(this.looksAt)) return;
    this.looksAt = at;
    this.back = null;
  }

  view() {
    const { width, height } = this.canvas;
    if (this.looksAt) {
      const [x, y, units] = this.looksAt;
      const scale = width / units;
      return [scale, width / 2 - x * scale, height / 2 - y * scale];
    }
    return this.cover();
  }

  cover() {
    const { width, height } = this.canvas;
    const scale = Math.max(width / stageWidth, height / stageHeight);
    return [scale, (width - stageWidth * scale) / 2, (height - stageHeight * scale) / 2];
  }

  draw(items) {
    const { context, canvas } = this;
    if (!this.back) this.paintBack();
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.globalCompositeOperation = "source-over";
    context.globalAlpha = 1;
    context.drawImage(this.back, 0, 0);
    for (let i = this.backCount; i < this.shapes.length; i++) if (items[i]) this.paint(context, i, items);
    this.paintGrain(context, canvas);
  }

  paintBack() {
    this.back = new OffscreenCanvas(this.canvas.width, this.canvas.height);
    const context = this.back.getContext("2d");
    const still = [];
    for (let i = 0; i < this.backCount; i++) still[i] = [i, 1, 0, 0, 1, 0, 0, 1, 0];
    for (let i = 0; i < this.backCount; i++) this.paint(context, i, still);
  }

  paint(context, i, items) {
    const item = items[i];
    const shape = this.shapes[i];
    const opacity = item[7];
    const path = item[8] ? new Path2D(item[8]) : this.staticPath(i, shape);
    if (opacity <= 0 || !path) return;
    const clip = shape.clip >= 0 ? items[shape.clip] : null;
    if (shape.clip >= 0 && !clip?.[8]) return;
    if (clip) {
      context.save();
      this.transform(context, clip);
      context.clip(new Path2D(clip[8]));
    }
    this.transform(context, item);
    context.globalAlpha = opacity;
    if (shape.fill) {
      context.fillStyle = shape.fill;
      context.fill(path);
    }
    if (shape.stroke && shape.width > 0) {
      context.strokeStyle = shape.stroke;
      context.lineWidth = shape.width;
      context.lineCap = "round";
      context.lineJoin = "round";
      context.stroke(path);
      if (shape.nib > 0) {
        context.translate(shape.nib, shape.nib * 0.6);
        context.stroke(path);
      }
    }
    if (clip) context.restore();
  }

  staticPath(i, shape) {
    if (!this.paths.has(i)) this.paths.set(i, shape.d ? new Path2D(shape.d) : null);
    return this.paths.get(i);
  }

  transform(context, item) {
    const [scale, x, y] = this.view();
    context.setTransform(scale, 0, 0, scale, x, y);
    context.transform(item[1], item[2], item[3], item[4], item[5], item[6]);
  }

  paintGrain(context, canvas) {
    if (!this.grain) return;
    // The grain is the paper's: it stays where it is, whatever is seen.
    const [scale, x, y] = this.cover();
    this.pattern ??= context.createPattern(this.grain, "repeat");
    context.setTransform(scale, 0, 0, scale, x, y);
    context.globalAlpha = 1;
    context.globalCompositeOperation = "multiply";
    context.fillStyle = this.pattern;
    context.fillRect(-x / scale, -y / scale, canvas.width / scale, canvas.height / scale);
    context.globalCompositeOperation = "source-over";
  }
}
