import type { Part } from "../model/shape";

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
  eachSpan(parts, width, height, (row, from, to) => bitmap.fill(value, row * width + from, row * width + to));
}

/** Calls `take` for each piece of a row whose pixels' centres lie inside, `to` exclusive. */
function eachSpan(
  parts: readonly Part[],
  width: number,
  height: number,
  take: (row: number, from: number, to: number) => void,
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
        if (to > from) take(row, from, to);
      }
    }
  }
}

/** The whole pixels around parts on a canvas: first column and row, and those after the last. */
function windowOf(parts: readonly Part[], width: number, height: number): [number, number, number, number] {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const part of parts)
    for (const ring of part)
      for (let i = 0; i + 1 < ring.length; i += 2) {
        left = Math.min(left, ring[i] as number);
        right = Math.max(right, ring[i] as number);
        top = Math.min(top, ring[i + 1] as number);
        bottom = Math.max(bottom, ring[i + 1] as number);
      }
  const within = (value: number, most: number) => Math.min(most, Math.max(0, value));
  return [
    within(Math.floor(left), width),
    within(Math.floor(top), height),
    within(Math.ceil(right), width),
    within(Math.ceil(bottom), height),
  ];
}

/** Column-by-column runs of a polygon on a canvas of `width` × `height`; only the pixels around it are painted. */
export function polygonToMask(parts: readonly Part[], width: number, height: number): number[] {
  const [left, top, right, bottom] = windowOf(parts, width, height);
  const [columns, rows] = [right - left, bottom - top];
  const total = width * height;
  if (!(columns > 0 && rows > 0)) return [total];
  const bitmap = new Uint8Array(columns * rows);
  eachSpan(parts, width, height, (row, from, to) => {
    const start = (row - top) * columns - left;
    bitmap.fill(1, start + from, start + to);
  });
  const counts: number[] = [];
  let [inside, began] = [false, 0];
  const turn = (at: number) => {
    counts.push(at - began);
    began = at;
    inside = !inside;
  };
  for (let x = 0; x < columns; x++) {
    for (let y = 0, at = x; y < rows; y++, at += columns)
      if ((bitmap[at] === 1) !== inside) turn((left + x) * height + top + y);
    // Below the window there is nothing, unless it reaches the canvas's end and goes on in the next column.
    if (inside && bottom < height) turn((left + x) * height + bottom);
    else if (inside && (top > 0 || x + 1 === columns) && (left + x + 1) * height < total) turn((left + x + 1) * height);
  }
  counts.push(total - began);
  return counts;
}
