// Draws drawing lists on a canvas, exactly as the server's rasteriser does.
import { ClipFrames } from "./clip-frames.js";
import { cornersOf, drawMesh, softened, tinted } from "./mesh.js";
import { wake } from "./ticking.js";

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
  first({ from, frames, looks, places }) {
    this.early = [from, itemsOf(frames[0], looks, places)];
  }

  request(c) {
    if (this.chunks.has(c)) return this.chunks.get(c);
    const loading = fetch(this.url(c * this.chunk, this.chunk))
      .then((r) => (r.ok ? r.json() : Promise.reject(new Error(r.status))))
      .then((data) => {
        let items = [];
        let look = null;
        const frames = data.frames.map((changes, i) => {
          items = items.slice();
          for (const change of changes) items[change[0]] = change;
          look = items.look = data.looks?.[i] || look;
          items.places = data.places?.[i];
          return items;
        });
        this.chunks.set(c, frames);
        this.onArrival();
        wake();
      })
      .catch(() => this.chunks.delete(c));
    this.chunks.set(c, loading);
    return loading;
  }
}

// One frame by itself, with what the camera sees of it, and where everybody is while somebody walks.
export function itemsOf(changes, looks, places) {
  const items = [];
  for (const change of changes) items[change[0]] = change;
  items.look = looks?.[0] || null;
  items.places = places?.[0];
  return items;
}

// All frames of a chunk: each tells what has changed since the one before.
export function unpacked({ frames }) {
  let items = [];
  return frames.map((changes) => {
    items = items.slice();
    for (const change of changes) items[change[0]] = change;
    return items;
  });
}

// Pictures of one's own that shapes are filled with.
async function picturesOf(shapes, known, base) {
  const hashes = [...new Set(shapes.filter((s) => s.picture && !s.filmed).map((s) => s.picture))];
  if (!hashes.length) return new Map();
  const all = await Promise.all(
    hashes.map(
      async (hash) =>
        known?.get(hash) ??
        fetch(`${base}/pictures/${hash}`)
          .then((r) => (r.ok ? r.blob() : Promise.reject(new Error(r.status))))
          .then(createImageBitmap)
          .catch(() => null),
    ),
  );
  return new Map(hashes.map((hash, i) => [hash, all[i]]));
}

// The box of a path of four corners.
export function boxOf(d) {
  const [x0, y0, x1, , , y1] = d.match(/-?[\d.]+/g).map(Number);
  return [x0, y0, x1 - x0, y1 - y0];
}

// Out of focus: larger by twice the blur on each side, and cut, so that nothing shines through its edge (DrawShape.Blur). Filters count in pixels.
function drawBlurred(context, picture, [x, y, w, h], blur) {
  const { a, b } = context.getTransform();
  context.save();
  context.beginPath();
  context.rect(x, y, w, h);
  context.clip();
  context.filter = `blur(${blur * Math.hypot(a, b)}px)`;
  context.drawImage(picture, x - 2 * blur, y - 2 * blur, w + 4 * blur, h + 4 * blur);
  context.restore();
}

// What a frame shows, out of the numbers that the server sends (FrameWriter).
function lookOf(numbers) {
  const view = (at) => ({ near: numbers.slice(at, at + 3), far: numbers.slice(at + 3, at + 6), moves: numbers[6] === 1 });
  if (numbers.length < 17) return view(0);
  const [before, after, way, share] = numbers.slice(7, 11);
  return { ...view(0), next: { ...view(11), before, after, share, isWipe: way > 1, isPass: way === 3 } };
}

function copyOf(canvas) {
  const copy = new OffscreenCanvas(canvas.width, canvas.height);
  copy.getContext("2d").drawImage(canvas, 0, 0);
  return copy;
}

// So much more than it needs is painted of what lies behind while the camera moves, at each side.
const spare = 0.12;

const passWidth = 0.34;
const passStops = [
  [0, 0],
  [0.24, 1],
  [0.76, 1],
  [1, 0],
];

export class StagePainter {
  // base: where pictures, clips and grain are asked for.
  constructor(canvas, base = "/api") {
    this.base = base;
    this.canvas = canvas;
    this.context = canvas.getContext("2d");
    this.paths = new Map();
    this.grain = null;
    // The whole stage, whatever the camera does, without what is written on the picture; and a look that takes the place of the frame's own.
    this.isWhole = false;
    this.held = null;
    // Frames of clips come while one looks: whoever shows something is told to do so again.
    this.onPicture = () => {};
    // Whoever looks along is handed what was drawn.
    this.onDrawn = () => {};
    this.clips = new ClipFrames(() => {
      this.onPicture();
      wake();
    }, base);
  }

  async load(shapesUrl, grainUrl = `${this.base}/grain`) {
    const [shapes, grain] = await Promise.all([
      fetch(shapesUrl).then((r) => r.json()),
      this.grain ??
        fetch(grainUrl)
          .then((r) => r.blob())
          .then(createImageBitmap),
    ]);
    this.grain = grain;
    await this.take(shapes);
  }

  // Shapes that have come already; with their pictures, of which those that are there are kept.
  async take(shapes) {
    const pictures = await picturesOf(shapes.shapes, this.pictures, this.base);
    this.pictures = pictures;
    this.shapes = shapes.shapes;
    this.hasGrain = shapes.grain !== false;
    this.lit = new Map();
    this.backCount = shapes.back;
    this.overFirst = shapes.over;
    this.paths.clear();
    this.gradients = new Map();
    this.back = this.backAfter = null;
    wake();
  }

  // Fits the picture to the canvas in the shape of width x height; returns whether the size changed.
  resize(width, height) {
    if (this.canvas.width === width && this.canvas.height === height) return false;
    this.canvas.width = width;
    this.canvas.height = height;
    this.back = this.backAfter = null;
    return true;
  }

  // What is shown of the stage: its middle and stage units across, as the server says; all of it where nothing is said.
  look(at) {
    if (String(at) === String(this.looksAt)) return;
    this.looksAt = at;
    this.back = null;
  }

  // Scale and place of what is seen at [x, y, units across].
  viewOf(at) {
    if (!at) return this.cover();
    const { width, height } = this.canvas;
    const scale = width / at[2];
    return [scale, width / 2 - at[0] * scale, height / 2 - at[1] * scale];
  }

  // What a frame shows: near, behind, and whether the camera moves.
  lookOf(items) {
    const look = this.held ?? (this.isWhole ? null : items.look);
    return look ? lookOf(look) : { near: this.looksAt, far: this.looksAt, moves: false };
  }

  cover() {
    const { width, height } = this.canvas;
    const scale = Math.max(width / stageWidth, height / stageHeight);
    return [scale, (width - stageWidth * scale) / 2, (height - stageHeight * scale) / 2];
  }

  draw(items) {
    const look = this.lookOf(items);
    if (look.next) this.drawBoth(items, look);
    else this.drawView(items, look);
    this.shownLook = look.near;
    this.onDrawn(items);
  }

  // Whoever moves by themselves is asked for more often than they have frames: the same one in the same look is there already.
  drawNew(items) {
    if (items === this.drawn?.items && this.back && this.back === this.drawn.back) return;
    this.draw(items);
    this.drawn = { items, back: this.back };
  }

  // The shapes of another one, which goes on owning them.
  share(other) {
    if (this.shapes !== other.shapes) {
      const { shapes, pictures, grain, hasGrain, lit, backCount, overFirst, paths, gradients, clips } = other;
      Object.assign(this, { shapes, pictures, grain, hasGrain, lit, backCount, overFirst, paths, gradients, clips });
      this.back = this.backAfter = null;
    }
    this.look(other.looksAt);
  }

  // One shot becomes the next: both of the same moment, each as much as it is seen.
  drawBoth(items, look) {
    const { context, canvas } = this;
    const { next } = look;
    this.drawView(items, look);
    const seen = this.seen;
    const pictures = [next.isWipe ? null : copyOf(canvas)];
    context.save();
    if (next.isWipe) {
      context.setTransform(1, 0, 0, 1, 0, 0);
      context.beginPath();
      context.rect(0, 0, Math.min(canvas.width, Math.max(0, Math.round(next.share * canvas.width))), canvas.height);
      context.clip();
    }
    // What lies behind is kept for both.
    [this.back, this.backAfter] = [this.backAfter, this.back];
    this.drawView(items, next);
    [this.back, this.backAfter] = [this.backAfter, this.back];
    context.restore();
    this.seen = seen;
    if (next.isPass) this.drawPass(next.share);
    if (next.isWipe) return;
    pictures.push(copyOf(canvas));
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.globalCompositeOperation = "source-over";
    context.clearRect(0, 0, canvas.width, canvas.height);
    context.globalCompositeOperation = "lighter";
    for (const [i, share] of [next.before, next.after].entries()) {
      context.globalAlpha = share;
      if (share > 0) context.drawImage(pictures[i], 0, 0);
    }
    context.globalAlpha = 1;
    context.globalCompositeOperation = "destination-over";
    context.fillStyle = "#000";
    if (this.backCount) context.fillRect(0, 0, canvas.width, canvas.height);
    context.globalCompositeOperation = "source-over";
  }

  // Something dark and out of focus passes close to the camera (FrameBlend).
  drawPass(edge) {
    const { context, canvas } = this;
    const [left, right] = [-0.5, 0.5].map((side) => (edge + side * passWidth) * canvas.width);
    const dark = context.createLinearGradient(left, 0, right, 0);
    for (const [at, much] of passStops) dark.addColorStop(at, `rgb(16 20 31 / ${much})`);
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.globalAlpha = 1;
    context.fillStyle = dark;
    context.fillRect(left, 0, right - left, canvas.height);
  }

  drawView(items, { near, far, moves }) {
    const { context, canvas } = this;
    this.paintBack(far, moves);
    context.globalCompositeOperation = "source-over";
    context.globalAlpha = 1;
    // Where there is no set, what was drawn before would shine through.
    context.setTransform(1, 0, 0, 1, 0, 0);
    if (!this.backCount) context.clearRect(0, 0, canvas.width, canvas.height);
    // Kept for a view of its own: while the camera moves it is laid where it belongs.
    const [scale, x, y] = this.viewOf(far);
    const [kept, left, top] = this.back.view;
    const by = scale / kept;
    context.setTransform(by, 0, 0, by, x - left * by, y - top * by);
    context.drawImage(this.back.picture, 0, 0);
    this.seen = this.viewOf(near);
    const last = this.isWhole ? (this.overFirst ?? this.shapes.length) : this.shapes.length;
    for (let i = this.backCount; i < last; i++) if (items[i]) this.paint(context, i, items);
    this.paintGrain(context, canvas);
  }

  paintBack(far, moves) {
    const { width, height } = this.canvas;
    const [scale, x, y] = this.viewOf(far);
    if (this.back?.moves && moves) {
      // Whether all that is seen now was painted, and about as large.
      const [kept, left, top] = this.back.view;
      const by = scale / kept;
      const at = [x - left * by, y - top * by];
      const isThere = at[0] <= 0 && at[1] <= 0 && at[0] + this.back.picture.width * by >= width && at[1] + this.back.picture.height * by >= height;
      if (isThere && by < 1.06) return;
    } else if (this.back && !this.back.moves && !moves && String(far) === this.back.key) return;
    const more = moves ? spare : 0;
    const view = [scale * (1 + more), (x + width * more) * (1 + more), (y + height * more) * (1 + more)];
    const picture = new OffscreenCanvas(Math.ceil(width * (1 + 2 * more) * (1 + more)), Math.ceil(height * (1 + 2 * more) * (1 + more)));
    this.back = { picture, view, moves, key: String(far) };
    const context = picture.getContext("2d");
    const still = [];
    for (let i = 0; i < this.backCount; i++) still[i] = [i, 1, 0, 0, 1, 0, 0, 1, 0];
    this.seen = view;
    for (let i = 0; i < this.backCount; i++) this.paint(context, i, still);
  }

  paint(context, i, items) {
    const item = items[i];
    const shape = this.shapes[i];
    const opacity = item[7];
    const path = shape.mesh ? item[8] : item[8] ? new Path2D(item[8]) : this.staticPath(i, shape);
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
    const picture = shape.picture && this.pictures?.get(shape.picture);
    if (shape.mesh) {
      if (picture || shape.filmed) this.paintMesh(context, i, picture, item);
    } else if (picture) {
      context.imageSmoothingQuality = "high";
      if (shape.blur) drawBlurred(context, picture, boxOf(shape.d), shape.blur);
      else context.drawImage(picture, ...boxOf(shape.d));
    }
    if (shape.fill || shape.gradient) {
      context.fillStyle = shape.gradient ? this.gradient(context, i, shape.gradient, item[9]) : shape.fill;
      if (shape.blend) context.globalCompositeOperation = shape.blend;
      context.fill(path);
      if (shape.blend) context.globalCompositeOperation = "source-over";
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

  // The foremost shape at a pixel of the canvas, -1 for none; what is written on the picture is looked through.
  shapeAt(items, x, y) {
    const { context } = this;
    for (let i = (this.overFirst ?? this.shapes.length) - 1; i >= this.backCount; i--) {
      const [item, shape] = [items[i], this.shapes[i]];
      if (!item || item[7] < 0.2 || shape.flat) continue;
      const path = shape.mesh ? null : item[8] ? new Path2D(item[8]) : this.staticPath(i, shape);
      if (!path) continue;
      context.save();
      this.transform(context, item);
      const isIn = (shape.fill || shape.picture || (shape.gradient && !shape.blend)) && context.isPointInPath(path, x, y);
      context.restore();
      if (isIn) return i;
    }
    return -1;
  }

  paintMesh(context, i, picture, item) {
    const shape = this.shapes[i];
    const { frame, corners, at } = cornersOf(item[8]);
    const scale = this.seen[0] * Math.hypot(item[1], item[2]);
    if (frame < 0) {
      if (!this.lit.has(i)) this.lit.set(i, tinted(picture, shape.tint));
      drawMesh(context, this.lit.get(i), shape.mesh, shape.mesh.at, corners, scale);
      return;
    }
    // While a frame is on its way the last one that came stays.
    const came = this.clips.get(shape.picture, frame, shape.filmed);
    const shown = came ?? (shape.mesh.triangles.length === 6 ? this.lastClip : null);
    if (came) this.lastClip = came;
    if (!shown) return;
    // Clip and lower face are the same frame in the same light.
    if (this.litClip?.from !== shown || this.litClip.tint !== shape.tint) this.litClip = { from: shown, tint: shape.tint, picture: tinted(shown, shape.tint) };
    if (!shape.blur) return void drawMesh(context, this.litClip.picture, shape.mesh, at, corners, scale);
    this.litClip.soft ??= softened(this.litClip.picture, shape.blur);
    const { picture: soft, less } = this.litClip.soft;
    const there = at.map((v) => v / less);
    drawMesh(context, soft, shape.mesh, there, corners, scale);
  }

  // Colours that run across a fill: those of the frame where it brings its own. The last ones are kept.
  gradient(context, i, { radial, line: [x0, y0, x1, y1], at, colors }, own = colors) {
    const known = this.gradients.get(i);
    if (known?.colors === own) return known.made;
    const made = radial ? context.createRadialGradient(x0, y0, 0, x0, y0, Math.hypot(x1 - x0, y1 - y0)) : context.createLinearGradient(x0, y0, x1, y1);
    own
      .slice(1)
      .split("#")
      .forEach((color, k) => made.addColorStop(at[k], `#${color}`));
    this.gradients.set(i, { colors: own, made });
    return made;
  }

  staticPath(i, shape) {
    if (!this.paths.has(i)) this.paths.set(i, shape.d ? new Path2D(shape.d) : null);
    return this.paths.get(i);
  }

  transform(context, item) {
    // What is written lies on the picture itself, 720 units high.
    const [scale, x, y] = this.shapes[item[0]].flat ? [this.canvas.height / 720, 0, 0] : this.seen;
    context.setTransform(scale, 0, 0, scale, x, y);
    context.transform(item[1], item[2], item[3], item[4], item[5], item[6]);
  }

  paintGrain(context, canvas) {
    if (!this.grain || !this.hasGrain || !this.backCount) return;
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
