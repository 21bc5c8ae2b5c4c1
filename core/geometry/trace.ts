/** From masks to outlines. */
import type { Part, Ring, Shape } from "../model/shape";
import { ringContains, signedRingArea } from "./polygon";
import { runsBounds } from "./run-length";
import { simplifyRing } from "./simplify";

const stepX = [1, 0, -1, 0] as const;
const stepY = [0, 1, 0, -1] as const;

/**
 * The outlines of a mask along its pixels' edges, exact: painting them again gives the same mask. Pixels that touch
 * by a corner only are parts of their own. Outer rings run clockwise on screen, holes the other way.
 */
export function traceMask(counts: readonly number[], width: number, height: number): Part[] {
  const box = runsBounds(counts, height);
  if (!box || box.x >= width) return [];
  // Only the pixels around the mask are looked at: an image of many megapixels holds many small masks.
  const [columns, rows] = [Math.min(box.width, width - box.x), box.height];
  const bitmap = new Uint8Array(columns * rows);
  let position = 0;
  counts.forEach((run, i) => {
    if (i % 2 === 1) {
      for (let p = position; p < position + run; p++) {
        const x = Math.floor(p / height) - box.x;
        if (x < columns) bitmap[((p % height) - box.y) * columns + x] = 1;
      }
    }
    position += run;
  });
  return traceBitmap(bitmap, columns, rows).map((part) =>
    part.map((ring) => ring.map((value, i) => value + (i % 2 === 0 ? box.x : box.y))),
  );
}

/** The outlines of a mask for drawing: no corner is further than `tolerance` pixels from where it was. */
export function maskOutline({ counts, width, height }: Extract<Shape, { kind: "mask" }>, tolerance: number): Part[] {
  return traceMask(counts, width, height).map((part) => part.map((ring) => simplifyRing(ring, tolerance)));
}

/** As traceMask, for a row-major bitmap in which non-zero is foreground. */
export function traceBitmap(bitmap: Uint8Array, width: number, height: number): Part[] {
  const filled = (x: number, y: number) => x >= 0 && y >= 0 && x < width && y < height && bitmap[y * width + x] !== 0;
  const walked = new Uint8Array(width * height);
  const outer: { ring: Ring; area: number; holes: Ring[] }[] = [];
  const holes: Ring[] = [];

  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      // Every outline has a pixel whose upper edge it runs along from left to right.
      if (!filled(x, y) || filled(x, y - 1) || walked[y * width + x]) continue;
      const ring: Ring = [];
      let [vx, vy, direction] = [x, y, 0];
      do {
        if (direction === 0) walked[vy * width + vx] = 1;
        vx += stepX[direction] as number;
        vy += stepY[direction] as number;
        // The two pixels ahead: on the right hand, where the foreground is, and on the left.
        const right =
          direction === 0
            ? filled(vx, vy)
            : direction === 1
              ? filled(vx - 1, vy)
              : direction === 2
                ? filled(vx - 1, vy - 1)
                : filled(vx, vy - 1);
        const left =
          direction === 0
            ? filled(vx, vy - 1)
            : direction === 1
              ? filled(vx, vy)
              : direction === 2
                ? filled(vx - 1, vy)
                : filled(vx - 1, vy - 1);
        const turn = !right ? 1 : left ? 3 : 0;
        if (turn !== 0) ring.push(vx, vy);
        direction = (direction + turn) % 4;
      } while (vx !== x || vy !== y || direction !== 0);
      const area = signedRingArea(ring);
      if (area > 0) outer.push({ ring, area, holes: [] });
      else holes.push(ring);
    }
  }
  // A hole belongs to the smallest outline around it; a point just inside its first corner tells.
  const bySize = [...outer].sort((a, b) => a.area - b.area);
  for (const hole of holes) {
    const [hx, hy] = insideHole(hole, bitmap, width);
    bySize.find(({ ring }) => ringContains(ring, hx, hy))?.holes.push(hole);
  }
  return outer.map(({ ring, holes: inner }): Part => [ring, ...inner]);
}

/** The centre of a background pixel that touches the hole's first corner from within. */
function insideHole(hole: Ring, bitmap: Uint8Array, width: number): [number, number] {
  const [x, y] = [hole[0] as number, hole[1] as number];
  for (const [dx, dy] of [
    [0, 0],
    [-1, 0],
    [0, -1],
    [-1, -1],
  ] as const) {
    const [px, py] = [x + dx, y + dy];
    if (px >= 0 && py >= 0 && px < width && bitmap[py * width + px] === 0 && ringContains(hole, px + 0.5, py + 0.5))
      return [px + 0.5, py + 0.5];
  }
  return [x, y];
}
