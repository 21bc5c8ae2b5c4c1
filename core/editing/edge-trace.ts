/**
 * Paths that follow the edges of a picture between two points: the cheapest way through its pixels, where a step costs
 * less the stronger the edge is (Mortensen & Barrett, Intelligent scissors, SIGGRAPH 1995).
 */
import type { Box } from "../model/shape";

/** What a step onto each pixel costs, row by row: 1 on the strongest edge, 255 where there is none. */
export type EdgeCosts = { costs: Uint8Array; width: number; height: number };

/** Costs of a picture of grey values (0 … 255), from the length of its gradient (Sobel's operator). */
export function edgeCosts(grey: Uint8Array | Uint8ClampedArray, width: number, height: number): EdgeCosts {
  const lengths = new Float32Array(width * height);
  let most = 1;
  for (let y = 1; y < height - 1; y++) {
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      const value = (dx: number, dy: number) => grey[at + dy * width + dx] as number;
      const across = value(1, -1) + 2 * value(1, 0) + value(1, 1) - value(-1, -1) - 2 * value(-1, 0) - value(-1, 1);
      const down = value(-1, 1) + 2 * value(0, 1) + value(1, 1) - value(-1, -1) - 2 * value(0, -1) - value(1, -1);
      const length = Math.hypot(across, down);
      lengths[at] = length;
      if (length > most) most = length;
    }
  }
  // The root lets weak edges count beside strong ones.
  const costs = Uint8Array.from(lengths, (length) => 255 - Math.round(254 * Math.sqrt(length / most)));
  return { costs, width, height };
}

/** Grey values of red, green, blue and alpha, row by row (ITU-R BT.601). */
export function greyOf(rgba: Uint8Array | Uint8ClampedArray): Uint8Array {
  const grey = new Uint8Array(rgba.length / 4);
  for (let at = 0, i = 0; at < grey.length; at++, i += 4)
    grey[at] = (299 * (rgba[i] as number) + 587 * (rgba[i + 1] as number) + 114 * (rgba[i + 2] as number) + 500) / 1000;
  return grey;
}

const neighbours = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
  [1, 1],
  [-1, 1],
  [-1, -1],
  [1, -1],
] as const;
/** Costs count in tenths, so that a diagonal step can be √2 as long as a straight one. */
const straight = 10;
const diagonal = 14;
const buckets = 256 * diagonal;

/** The cheapest ways from one pixel to every other of a window of the picture. */
export type TraceField = { window: Box; seed: [number, number]; from: Int8Array };

/**
 * The field around a seed (image pixels, whole), out to `reach` pixels on each side: Dijkstra's algorithm with a queue
 * of buckets (Dial, CACM 12, 1969). Null for a seed outside of the picture.
 */
export function traceField(
  { costs, width, height }: EdgeCosts,
  seed: [number, number],
  reach: number,
): TraceField | null {
  const [sx, sy] = seed;
  if (sx < 0 || sy < 0 || sx >= width || sy >= height) return null;
  const [left, top] = [Math.max(0, sx - reach), Math.max(0, sy - reach)];
  const columns = Math.min(width, sx + reach + 1) - left;
  const rows = Math.min(height, sy + reach + 1) - top;
  const sums = new Int32Array(columns * rows).fill(0x7fffffff);
  const from = new Int8Array(columns * rows).fill(-1);
  const done = new Uint8Array(columns * rows);
  const queue: number[][] = Array.from({ length: buckets }, () => []);
  const start = (sy - top) * columns + (sx - left);
  sums[start] = 0;
  queue[0]?.push(start);
  let waiting = 1;
  for (let sum = 0; waiting > 0; sum++) {
    const bucket = queue[sum % buckets] as number[];
    while (bucket.length > 0) {
      const at = bucket.pop() as number;
      waiting--;
      if (done[at] === 1) continue;
      done[at] = 1;
      const [x, y] = [at % columns, Math.floor(at / columns)];
      for (let n = 0; n < 8; n++) {
        const [dx, dy] = neighbours[n] as readonly [number, number];
        const [nx, ny] = [x + dx, y + dy];
        if (nx < 0 || ny < 0 || nx >= columns || ny >= rows) continue;
        const next = ny * columns + nx;
        if (done[next] === 1) continue;
        const step = (costs[(top + ny) * width + left + nx] as number) * (n < 4 ? straight : diagonal);
        if (sum + step >= (sums[next] as number)) continue;
        sums[next] = sum + step;
        from[next] = n;
        (queue[(sum + step) % buckets] as number[]).push(next);
        waiting++;
      }
    }
  }
  return { window: { x: left, y: top, width: columns, height: rows }, seed, from };
}

/**
 * The path from a field's seed to a point (image pixels), through the middles of pixels, flat coordinates; null where the
 * point lies outside of the field's window.
 */
export function tracedPath({ window, seed, from }: TraceField, x: number, y: number): number[] | null {
  let [column, row] = [Math.floor(x) - window.x, Math.floor(y) - window.y];
  if (column < 0 || row < 0 || column >= window.width || row >= window.height) return null;
  const path: [number, number][] = [];
  for (;;) {
    path.push([window.x + column + 0.5, window.y + row + 0.5]);
    const step = neighbours[from[row * window.width + column] as number];
    if (!step) break;
    column -= step[0];
    row -= step[1];
  }
  const [endX, endY] = path.at(-1) as [number, number];
  return Math.floor(endX) === seed[0] && Math.floor(endY) === seed[1] ? path.reverse().flat() : null;
}
