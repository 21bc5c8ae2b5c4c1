/**
 * The outline of a thing in a box, by GrabCut (Rother, Kolmogorov & Blake, SIGGRAPH 2004), as OpenCV computes it. OpenCV
 * is handed in: a worker of the browser and the benchmarks each load it in their own way.
 */
import type { Box } from "../model/shape";

type Matrix = { data: Uint8Array; delete: () => void };
/** What of OpenCV is used. */
export type OpenCv = {
  Mat: new (rows?: number, columns?: number, type?: number) => Matrix;
  Rect: new (x: number, y: number, width: number, height: number) => unknown;
  CV_8UC3: number;
  GC_INIT_WITH_RECT: number;
  GC_INIT_WITH_MASK: number;
  grabCut: (
    image: Matrix,
    mask: Matrix,
    rectangle: unknown,
    background: Matrix,
    foreground: Matrix,
    rounds: number,
    mode: number,
  ) => void;
};

/**
 * OpenCV once it has started. It has a `then` of its own that never comes to an end for whoever awaits it, so it is handed
 * on within an object.
 */
export function startedOpenCv(module: unknown): Promise<{ cv: OpenCv }> {
  const cv = module as OpenCv;
  return new Promise((resolve) => {
    if ("Mat" in cv) resolve({ cv });
    else Object.assign(cv, { onRuntimeInitialized: () => resolve({ cv }) });
  });
}

export type CutRequest = {
  /** Red, green, blue and alpha, row by row. */
  pixels: Uint8Array | Uint8ClampedArray;
  width: number;
  height: number;
  /** Around the thing; what lies outside of it is not the thing. */
  box: Box;
  /** Places, flat coordinates, that are said to belong to the thing, and not to. */
  inside: readonly number[];
  outside: readonly number[];
};

/** Values of GrabCut's mask: surely not, surely, and 2 and 3 for probably not and probably. */
const [surelyNot, surely] = [0, 1];
const rounds = 4;
/** Pixels about a place that are said with it. */
const saidRadius = 4;

function say(mask: Uint8Array, width: number, height: number, places: readonly number[], value: number): void {
  for (let i = 0; i + 1 < places.length; i += 2) {
    const [x, y] = [Math.floor(places[i] as number), Math.floor(places[i + 1] as number)];
    for (let dy = -saidRadius; dy <= saidRadius; dy++)
      for (let dx = -saidRadius; dx <= saidRadius; dx++) {
        const [px, py] = [x + dx, y + dy];
        if (px < 0 || py < 0 || px >= width || py >= height || dx * dx + dy * dy > saidRadius * saidRadius) continue;
        mask[py * width + px] = value;
      }
  }
}

/** The pixels of the thing, row by row, 1 where they are. The box has to leave some of the picture outside of it. */
export function cutThing(cv: OpenCv, { pixels, width, height, box, inside, outside }: CutRequest): Uint8Array {
  const [image, mask, background, foreground] = [
    new cv.Mat(height, width, cv.CV_8UC3),
    new cv.Mat(),
    new cv.Mat(),
    new cv.Mat(),
  ];
  try {
    for (let at = 0; at < width * height; at++)
      for (let channel = 0; channel < 3; channel++) image.data[3 * at + channel] = pixels[4 * at + channel] as number;
    const rectangle = new cv.Rect(box.x, box.y, box.width, box.height);
    cv.grabCut(image, mask, rectangle, background, foreground, rounds, cv.GC_INIT_WITH_RECT);
    if (inside.length + outside.length > 0) {
      say(mask.data, width, height, inside, surely);
      say(mask.data, width, height, outside, surelyNot);
      cv.grabCut(image, mask, rectangle, background, foreground, 2, cv.GC_INIT_WITH_MASK);
    }
    // Surely and probably are both odd.
    return Uint8Array.from(mask.data, (value) => value & 1);
  } finally {
    for (const matrix of [image, mask, background, foreground]) matrix.delete();
  }
}
