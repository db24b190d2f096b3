// Triangles with a picture on them, drawn as the server's rasteriser draws them.

// In pixels of the canvas: so much each triangle is larger, so that no seam shows between neighbours.
const overlap = 0.35;

// A picture in the light of a scene: its colours multiplied, its holes kept.
export function tinted(picture, tint) {
  if (!tint || !picture) return picture;
  const canvas = new OffscreenCanvas(picture.width, picture.height);
  const context = canvas.getContext("2d");
  context.drawImage(picture, 0, 0);
  context.globalCompositeOperation = "multiply";
  context.fillStyle = tint;
  context.fillRect(0, 0, picture.width, picture.height);
  context.globalCompositeOperation = "destination-in";
  context.drawImage(picture, 0, 0);
  return canvas;
}

// Out of focus: made small first, for nothing fine is left; larger by twice the blur on each side (MeshPainter). Gives so many pixels became one.
export function softened(picture, blur) {
  const less = Math.min(16, Math.max(1, Math.trunc(blur / 2)));
  const canvas = new OffscreenCanvas(Math.ceil(picture.width / less), Math.ceil(picture.height / less));
  const context = canvas.getContext("2d");
  const air = (2 * blur) / less;
  context.imageSmoothingQuality = "high";
  context.filter = `blur(${blur / less}px)`;
  context.drawImage(picture, -air, -air, canvas.width + 2 * air, canvas.height + 2 * air);
  return { picture: canvas, less };
}

// The corners of a frame, as "x,y x,y ..."; of a clip as "#frame x,y,u,v ...", with where they are in that frame of it.
export function cornersOf(text) {
  const words = text.split(" ");
  const isFilmed = text[0] === "#";
  const frame = isFilmed ? Number(words.shift().slice(1)) : -1;
  const corners = new Float32Array(2 * words.length);
  const at = isFilmed ? new Float32Array(2 * words.length) : null;
  words.forEach((word, i) => {
    const numbers = word.split(",");
    corners[2 * i] = +numbers[0];
    corners[2 * i + 1] = +numbers[1];
    if (at) {
      at[2 * i] = +numbers[2];
      at[2 * i + 1] = +numbers[3];
    }
  });
  return { frame, corners, at };
}

// Draws a mesh; the context's transform goes from the shape's units to the canvas, in which a unit is so many pixels.
export function drawMesh(context, picture, { triangles }, at, corners, pixels) {
  const air = overlap / pixels;
  context.imageSmoothingQuality = "medium";
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [2 * triangles[t], 2 * triangles[t + 1], 2 * triangles[t + 2]];
    const [x0, y0, x1, y1, x2, y2] = [corners[a], corners[a + 1], corners[b], corners[b + 1], corners[c], corners[c + 1]];
    const [u0, v0, u1, v1, u2, v2] = [at[a], at[a + 1], at[b], at[b + 1], at[c], at[c + 1]];
    const area = (u1 - u0) * (v2 - v0) - (u2 - u0) * (v1 - v0);
    const seen = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
    if (!area || Math.abs(seen) < 1e-4) continue;
    context.save();
    context.beginPath();
    const side = seen > 0 ? air : -air;
    outward(context, "moveTo", x2, y2, x0, y0, x1, y1, side);
    outward(context, "lineTo", x0, y0, x1, y1, x2, y2, side);
    outward(context, "lineTo", x1, y1, x2, y2, x0, y0, side);
    context.clip();
    const m11 = ((x1 - x0) * (v2 - v0) - (x2 - x0) * (v1 - v0)) / area;
    const m12 = ((y1 - y0) * (v2 - v0) - (y2 - y0) * (v1 - v0)) / area;
    const m21 = ((x2 - x0) * (u1 - u0) - (x1 - x0) * (u2 - u0)) / area;
    const m22 = ((y2 - y0) * (u1 - u0) - (y1 - y0) * (u2 - u0)) / area;
    context.transform(m11, m12, m21, m22, x0 - m11 * u0 - m21 * v0, y0 - m12 * u0 - m22 * v0);
    // Only the part that can be seen through the triangle, and a little more.
    const left = Math.max(0, Math.floor(Math.min(u0, u1, u2)) - 2);
    const top = Math.max(0, Math.floor(Math.min(v0, v1, v2)) - 2);
    const width = Math.min(picture.width, Math.ceil(Math.max(u0, u1, u2)) + 2) - left;
    const height = Math.min(picture.height, Math.ceil(Math.max(v0, v1, v2)) + 2) - top;
    if (width > 0 && height > 0) context.drawImage(picture, left, top, width, height, left, top, width, height);
    context.restore();
  }
}

// The corner at (x, y) between the one before and the one after, where both its edges have gone outward by so much.
function outward(context, step, px, py, x, y, nx, ny, air) {
  const before = Math.hypot(x - px, y - py) || 1;
  const after = Math.hypot(nx - x, ny - y) || 1;
  const [ax, ay] = [(y - py) / before, (px - x) / before];
  const [bx, by] = [(ny - y) / after, (x - nx) / after];
  // Thin corners do not reach out far.
  const share = air / Math.max(0.25, 1 + ax * bx + ay * by);
  context[step](x + (ax + bx) * share, y + (ay + by) * share);
}
