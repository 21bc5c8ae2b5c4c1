/**
 * Paths that follow the edges of a picture between two points: the cheapest way through its pixels, where a step costs
 * less the stronger the edge is (Mortensen & Barrett, Intelligent scissors, SIGGRAPH 1995).
 */

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

/**
 * The cheapest ways from one pixel to others of a window of the picture: Dijkstra's algorithm with a queue of buckets
 * (Dial, CACM 12, 1969). It goes as far as it was asked for, and on from there the next time: a pointer near the seed
 * does not wait for the whole window.
 */
export class TraceField {
  private readonly left: number;
  private readonly top: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly sums: Int32Array;
  /** By which neighbour's step a pixel was reached; -1 where none. */
  private readonly from: Int8Array;
  private readonly done: Uint8Array;
  private readonly queue: number[][] = Array.from({ length: buckets }, () => []);
  private waiting = 1;
  private sum = 0;

  /** `seed`: whole image pixels within the picture; the window goes out to `reach` pixels on each side of it. */
  constructor(
    private readonly edges: EdgeCosts,
    readonly seed: readonly [number, number],
    reach: number,
  ) {
    const [sx, sy] = seed;
    this.left = Math.max(0, sx - reach);
    this.top = Math.max(0, sy - reach);
    this.columns = Math.min(edges.width, sx + reach + 1) - this.left;
    this.rows = Math.min(edges.height, sy + reach + 1) - this.top;
    this.sums = new Int32Array(this.columns * this.rows).fill(0x7fffffff);
    this.from = new Int8Array(this.columns * this.rows).fill(-1);
    this.done = new Uint8Array(this.columns * this.rows);
    const start = (sy - this.top) * this.columns + (sx - this.left);
    this.sums[start] = 0;
    (this.queue[0] as number[]).push(start);
  }

  /**
   * The path from the seed to a point (image pixels), through the middles of pixels, flat coordinates; null where the
   * point lies outside of the window.
   */
  pathTo(x: number, y: number): number[] | null {
    let [column, row] = [Math.floor(x) - this.left, Math.floor(y) - this.top];
    if (column < 0 || row < 0 || column >= this.columns || row >= this.rows) return null;
    this.settle(row * this.columns + column);
    const path: [number, number][] = [];
    for (;;) {
      path.push([this.left + column + 0.5, this.top + row + 0.5]);
      const step = neighbours[this.from[row * this.columns + column] as number];
      if (!step) return path.reverse().flat();
      column -= step[0];
      row -= step[1];
    }
  }

  /** Goes on until the way to a pixel is known for good. */
  private settle(wanted: number): void {
    const { queue, done } = this;
    while (done[wanted] === 0 && this.waiting > 0) {
      const bucket = queue[this.sum % buckets] as number[];
      const at = bucket.pop();
      if (at === undefined) {
        this.sum++;
        continue;
      }
      this.waiting--;
      if (done[at] === 1) continue;
      done[at] = 1;
      this.reachOn(at);
    }
  }

  private reachOn(at: number): void {
    const { columns, rows, sums, done, queue, sum } = this;
    const { costs, width } = this.edges;
    const [x, y] = [at % columns, Math.floor(at / columns)];
    for (let n = 0; n < 8; n++) {
      const [dx, dy] = neighbours[n] as readonly [number, number];
      const [nx, ny] = [x + dx, y + dy];
      if (nx < 0 || ny < 0 || nx >= columns || ny >= rows) continue;
      const next = ny * columns + nx;
      if (done[next] === 1) continue;
      const step = (costs[(this.top + ny) * width + this.left + nx] as number) * (n < 4 ? straight : diagonal);
      if (sum + step >= (sums[next] as number)) continue;
      sums[next] = sum + step;
      this.from[next] = n;
      (queue[(sum + step) % buckets] as number[]).push(next);
      this.waiting++;
    }
  }
}
