/**
 * Changes to a mask as a bitmap: row by row, one byte a pixel, 1 where it is. All of them change the bitmap they are
 * given. A pixel belongs to what is painted where its centre does.
 */
import type { Size } from "../model/item";

export type MaskCanvas = { bitmap: Uint8Array; width: number; height: number };

export const emptyCanvas = (width: number, height: number): MaskCanvas => ({
  bitmap: new Uint8Array(width * height),
  width,
  height,
});

/**
 * Visits the pixels whose centres lie within `radius` of a path of flat coordinates, of one point those of a disc: a run
 * of pixels of one row at a time, from `from` to before `to`, within the picture. A pixel may be visited more than once.
 */
export function visitStroke(
  path: readonly number[],
  radius: number,
  { width, height }: Size,
  visit: (row: number, from: number, to: number) => void,
): void {
  const last = path.length / 2 - 1;
  for (let i = 0; i < Math.max(1, last); i++) {
    const [x1, y1] = [path[2 * i] as number, path[2 * i + 1] as number];
    const j = Math.min(i + 1, last);
    const [x2, y2] = [path[2 * j] as number, path[2 * j + 1] as number];
    const top = Math.max(0, Math.ceil(Math.min(y1, y2) - radius - 0.5));
    const bottom = Math.min(height - 1, Math.floor(Math.max(y1, y2) + radius - 0.5));
    for (let row = top; row <= bottom; row++) {
      const span = capsuleSpan(x1, y1, x2, y2, radius, row + 0.5);
      if (!span) continue;
      const from = Math.max(0, Math.ceil(span[0] - 0.5));
      const to = Math.min(width, Math.floor(span[1] - 0.5) + 1);
      if (to > from) visit(row, from, to);
    }
  }
}

/** Paints (`value` 1) or rubs out (0) the pixels of a stroke. */
export function paintStroke(canvas: MaskCanvas, path: readonly number[], radius: number, value: 0 | 1): void {
  visitStroke(path, radius, canvas, (row, from, to) =>
    canvas.bitmap.fill(value, row * canvas.width + from, row * canvas.width + to),
  );
}

/** The part of a horizontal line at `y` that lies within `radius` of a segment: its two ends; null where it misses. */
function capsuleSpan(
  x1: number,
  y1: number,
  x2: number,
  y2: number,
  radius: number,
  y: number,
): [number, number] | null {
  let [from, to] = [Infinity, -Infinity];
  const take = (a: number, b: number) => {
    from = Math.min(from, a);
    to = Math.max(to, b);
  };
  for (const [cx, cy] of [
    [x1, y1],
    [x2, y2],
  ] as const) {
    const half = radius * radius - (y - cy) * (y - cy);
    if (half >= 0) take(cx - Math.sqrt(half), cx + Math.sqrt(half));
  }
  const [dx, dy] = [x2 - x1, y2 - y1];
  const length = Math.hypot(dx, dy);
  if (length > 0) {
    // Between the two discs lies a rectangle: where the line crosses its long and its short sides, in order along it.
    const [nx, ny] = [(-dy / length) * radius, (dx / length) * radius];
    const corners = [x1 + nx, y1 + ny, x2 + nx, y2 + ny, x2 - nx, y2 - ny, x1 - nx, y1 - ny];
    for (let i = 0; i < 8; i += 2) {
      const [ax, ay] = [corners[i] as number, corners[i + 1] as number];
      const [bx, by] = [corners[(i + 2) % 8] as number, corners[(i + 3) % 8] as number];
      if ((y < ay && y < by) || (y > ay && y > by)) continue;
      if (ay === by) take(Math.min(ax, bx), Math.max(ax, bx));
      else {
        const x = ax + ((y - ay) / (by - ay)) * (bx - ax);
        take(x, x);
      }
    }
  }
  return from <= to ? [from, to] : null;
}

/**
 * The pixels that are connected side by side with one and hold the same; null where they reach the picture's border, as
 * no line encloses them there, unless `open` says that this is meant too.
 */
function regionAt({ bitmap, width, height }: MaskCanvas, start: number, open: boolean): Int32Array | null {
  const wanted = bitmap[start];
  const seen = new Uint8Array(width * height);
  const queue = new Int32Array(width * height);
  let [head, tail] = [0, 1];
  queue[0] = start;
  seen[start] = 1;
  const visit = (at: number) => {
    if (seen[at] === 1 || bitmap[at] !== wanted) return;
    seen[at] = 1;
    queue[tail++] = at;
  };
  while (head < tail) {
    const at = queue[head++] as number;
    const x = at % width;
    const isBorder = x === 0 || x === width - 1 || at < width || at >= width * (height - 1);
    if (isBorder && !open) return null;
    if (x > 0) visit(at - 1);
    if (x < width - 1) visit(at + 1);
    if (at >= width) visit(at - width);
    if (at < width * (height - 1)) visit(at + width);
  }
  return queue.slice(0, tail);
}

/** Fills what the mask encloses around a pixel. Returns false, and changes nothing, where it is not enclosed. */
export function fillEnclosed(canvas: MaskCanvas, x: number, y: number): boolean {
  const { bitmap, width, height } = canvas;
  if (x < 0 || y < 0 || x >= width || y >= height || bitmap[y * width + x] === 1) return false;
  const region = regionAt(canvas, y * width + x, false);
  for (const at of region ?? []) bitmap[at] = 1;
  return region !== null;
}

/** Fills every hole: what is not connected side by side with the picture's border. */
export function fillHoles({ bitmap, width, height }: MaskCanvas): void {
  const outside = new Uint8Array(width * height);
  const queue = new Int32Array(width * height);
  let [head, tail] = [0, 0];
  const visit = (at: number) => {
    if (outside[at] === 1 || bitmap[at] === 1) return;
    outside[at] = 1;
    queue[tail++] = at;
  };
  for (let x = 0; x < width; x++) {
    visit(x);
    visit((height - 1) * width + x);
  }
  for (let y = 0; y < height; y++) {
    visit(y * width);
    visit(y * width + width - 1);
  }
  while (head < tail) {
    const at = queue[head++] as number;
    const x = at % width;
    if (x > 0) visit(at - 1);
    if (x < width - 1) visit(at + 1);
    if (at >= width) visit(at - width);
    if (at < width * (height - 1)) visit(at + width);
  }
  for (let at = 0; at < bitmap.length; at++) if (outside[at] === 0) bitmap[at] = 1;
}

const far = 1e20;

/** Squared distances along one line of samples: the lower envelope of parabolas. */
function alongLine(values: Float64Array, n: number, out: Float64Array, feet: Int32Array, bounds: Float64Array): void {
  let last = 0;
  feet[0] = 0;
  bounds[0] = -far;
  bounds[1] = far;
  for (let q = 1; q < n; q++) {
    const meet = (foot: number) =>
      ((values[q] as number) + q * q - ((values[foot] as number) + foot * foot)) / (2 * q - 2 * foot);
    let at = meet(feet[last] as number);
    while (at <= (bounds[last] as number)) at = meet(feet[--last] as number);
    feet[++last] = q;
    bounds[last] = at;
    bounds[last + 1] = far;
  }
  for (let q = 0, k = 0; q < n; q++) {
    while ((bounds[k + 1] as number) < q) k++;
    const foot = feet[k] as number;
    out[q] = (q - foot) * (q - foot) + (values[foot] as number);
  }
}

/**
 * The squared distance of each pixel's centre from the nearest pixel that holds `value` (Felzenszwalb & Huttenlocher,
 * Theory of Computing 8, 2012).
 */
function squaredDistances({ bitmap, width, height }: MaskCanvas, value: 0 | 1): Float64Array {
  const distances = Float64Array.from(bitmap, (pixel) => (pixel === value ? 0 : far));
  const most = Math.max(width, height);
  const [line, out] = [new Float64Array(most), new Float64Array(most)];
  const [feet, bounds] = [new Int32Array(most), new Float64Array(most + 1)];
  for (let x = 0; x < width; x++) {
    for (let y = 0; y < height; y++) line[y] = distances[y * width + x] as number;
    alongLine(line, height, out, feet, bounds);
    for (let y = 0; y < height; y++) distances[y * width + x] = out[y] as number;
  }
  for (let y = 0; y < height; y++) {
    line.set(distances.subarray(y * width, (y + 1) * width));
    alongLine(line, width, out, feet, bounds);
    distances.set(out.subarray(0, width), y * width);
  }
  return distances;
}

/**
 * Widens the mask by `pixels`, or narrows it where they are negative: a pixel comes or goes by the distance of its
 * centre. Where the picture ends, the mask is taken to go on: what is cut off by the border stays at the border.
 */
export function growMask(canvas: MaskCanvas, pixels: number): void {
  const { bitmap } = canvas;
  if (pixels === 0) return;
  const distances = squaredDistances(canvas, pixels > 0 ? 1 : 0);
  const most = pixels * pixels;
  for (let at = 0; at < bitmap.length; at++) if ((distances[at] as number) <= most) bitmap[at] = pixels > 0 ? 1 : 0;
}
