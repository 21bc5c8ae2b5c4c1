import type { Part } from "../model/shape";
import { runsFromBitmap } from "./run-length";

/**
 * Paints parts into a row-major bitmap of `width` × `height`. A pixel belongs to the shape when its centre lies
 * inside by the even–odd rule, holes left out; parts are united.
 */
export function paintPolygon(
  bitmap: Uint8Array,
  parts: readonly Part[],
  width: number,
  height: number,
  value = 1,
): void {
  for (const part of parts) {
    let top = Infinity;
    let bottom = -Infinity;
    for (const ring of part) {
      for (let i = 1; i < ring.length; i += 2) {
        top = Math.min(top, ring[i] as number);
        bottom = Math.max(bottom, ring[i] as number);
      }
    }
    const firstRow = Math.max(0, Math.ceil(top - 0.5));
    const lastRow = Math.min(height - 1, Math.floor(bottom - 0.5));
    for (let row = firstRow; row <= lastRow; row++) {
      const y = row + 0.5;
      const crossings: number[] = [];
      for (const ring of part) {
        for (let i = 0, j = ring.length - 2; i + 1 < ring.length; j = i, i += 2) {
          const y1 = ring[j + 1] as number;
          const y2 = ring[i + 1] as number;
          if (y1 > y === y2 > y) continue;
          const x1 = ring[j] as number;
          const x2 = ring[i] as number;
          crossings.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
        }
      }
      crossings.sort((a, b) => a - b);
      for (let c = 0; c + 1 < crossings.length; c += 2) {
        const from = Math.max(0, Math.ceil((crossings[c] as number) - 0.5));
        const to = Math.min(width, Math.ceil((crossings[c + 1] as number) - 0.5));
        if (to > from) bitmap.fill(value, row * width + from, row * width + to);
      }
    }
  }
}

/** Column-by-column runs of a polygon on a canvas of `width` × `height`. */
export function polygonToMask(parts: readonly Part[], width: number, height: number): number[] {
  const bitmap = new Uint8Array(width * height);
  paintPolygon(bitmap, parts, width, height);
  return runsFromBitmap(bitmap, width, height);
}
