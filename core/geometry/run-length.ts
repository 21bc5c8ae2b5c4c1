/**
 * Run-length masks: counts of background and foreground pixels in turn, column by column, background first.
 * The compressed string is the published COCO encoding (each count as a signed difference to the count two
 * before it from the fourth on, 5-bit groups, low first, 0x20 continues, 0x10 of the last group is the sign, plus 48).
 */
import type { Box } from "../model/shape";

/** A mask that claims more pixels than this is none: no picture has so many, and filling them would take all memory. */
export const mostMaskPixels = 2 ** 28;

/** Packs counts into the compressed string. */
export function encodeCounts(counts: readonly number[]): string {
  let out = "";
  for (let i = 0; i < counts.length; i++) {
    let value = (counts[i] as number) - (i > 2 ? (counts[i - 2] as number) : 0);
    let more = true;
    while (more) {
      let group = value & 0x1f;
      value >>= 5;
      more = group & 0x10 ? value !== -1 : value !== 0;
      if (more) group |= 0x20;
      out += String.fromCharCode(group + 48);
    }
  }
  return out;
}

/** Unpacks the compressed string; null where it is not one. */
export function decodeCounts(text: string): number[] | null {
  const counts: number[] = [];
  let position = 0;
  while (position < text.length) {
    let value = 0;
    let shift = 0;
    let more = true;
    while (more) {
      if (position >= text.length || shift > 30) return null;
      const group = text.charCodeAt(position++) - 48;
      if (group < 0 || group > 0x3f) return null;
      value |= (group & 0x1f) << shift;
      more = (group & 0x20) !== 0;
      shift += 5;
      if (!more && group & 0x10 && shift < 32) value |= -1 << shift;
    }
    if (counts.length > 2) value += counts[counts.length - 2] as number;
    if (value < 0) return null;
    counts.push(value);
  }
  return counts;
}

/** Runs of where a row-major map (`values[y * width + x]`) holds `value`. */
export function runsOfValue(
  values: Uint8Array | Uint16Array | Uint32Array,
  value: number,
  width: number,
  height: number,
): number[] {
  const counts: number[] = [];
  let inside = false;
  let run = 0;
  for (let x = 0; x < width; x++) {
    for (let y = 0, at = x; y < height; y++, at += width) {
      if ((values[at] === value) !== inside) {
        counts.push(run);
        run = 0;
        inside = !inside;
      }
      run++;
    }
  }
  counts.push(run);
  return counts;
}

/** Runs of a row-major bitmap (`bitmap[y * width + x]` non-zero is foreground). */
export function runsFromBitmap(bitmap: Uint8Array, width: number, height: number): number[] {
  const counts: number[] = [];
  let current = 0;
  let run = 0;
  for (let x = 0; x < width; x++) {
    for (let y = 0, at = x; y < height; y++, at += width) {
      const value = bitmap[at] ? 1 : 0;
      if (value !== current) {
        counts.push(run);
        run = 0;
        current = value;
      }
      run++;
    }
  }
  counts.push(run);
  return counts;
}

/** The row-major bitmap of runs; 1 is foreground. Runs past the end are cut. */
export function bitmapFromRuns(counts: readonly number[], width: number, height: number): Uint8Array {
  const bitmap = new Uint8Array(width * height);
  let position = 0;
  const total = width * height;
  for (let i = 0; i < counts.length; i++) {
    const end = Math.min(total, position + (counts[i] as number));
    if (i % 2 === 1) {
      for (let p = position; p < end; p++) bitmap[(p % height) * width + Math.floor(p / height)] = 1;
    }
    position = end;
  }
  return bitmap;
}

/** The row-major bitmap of a piece of a mask, whole pixels within its picture; `height` is that of the picture. */
export function bitmapOfPiece(counts: readonly number[], height: number, piece: Box): Uint8Array {
  const bitmap = new Uint8Array(piece.width * piece.height);
  eachRun(counts, (from, to) => {
    for (let column = Math.floor(from / height); column * height < to; column++) {
      const x = column - piece.x;
      if (x < 0 || x >= piece.width) continue;
      const top = Math.max(0, Math.max(from - column * height, 0) - piece.y);
      const bottom = Math.min(piece.height, Math.min(to - column * height, height) - piece.y);
      for (let y = top; y < bottom; y++) bitmap[y * piece.width + x] = 1;
    }
  });
  return bitmap;
}

/** Runs of a picture in which a piece holds all of the foreground; the counterpart of bitmapOfPiece. */
export function runsOfPiece(bitmap: Uint8Array, piece: Box, width: number, height: number): number[] {
  const counts: number[] = [];
  let [last, written] = [0, 0];
  const change = (at: number, value: number) => {
    counts.push(at - written);
    written = at;
    last = value;
  };
  for (let x = 0; x < piece.width; x++) {
    const column = (piece.x + x) * height + piece.y;
    // What lies above and below the piece is background.
    if (last === 1 && piece.height < height) change(column - height + piece.height, 0);
    for (let y = 0, at = x; y < piece.height; y++, at += piece.width) {
      const value = bitmap[at] ? 1 : 0;
      if (value !== last) change(column + y, value);
    }
  }
  if (last === 1 && written < width * height) {
    const end = (piece.x + piece.width - 1) * height + piece.y + piece.height;
    if (end < width * height) change(end, 0);
  }
  counts.push(width * height - written);
  return counts;
}

/** Calls `take` with each run of foreground, as places counted column by column, `to` exclusive. */
export function eachRun(counts: readonly number[], take: (from: number, to: number) => void): void {
  let at = 0;
  counts.forEach((run, index) => {
    if (index % 2 === 1 && run > 0) take(at, at + run);
    at += run;
  });
}

/** Number of foreground pixels. */
export function runsArea(counts: readonly number[]): number {
  let area = 0;
  for (let i = 1; i < counts.length; i += 2) area += counts[i] as number;
  return area;
}

/** The pixel-aligned box around the foreground; null for an empty mask. */
export function runsBounds(counts: readonly number[], height: number): Box | null {
  let position = 0;
  let left = Infinity;
  let right = -Infinity;
  let top = Infinity;
  let bottom = -Infinity;
  for (let i = 0; i < counts.length; i++) {
    const run = counts[i] as number;
    if (i % 2 === 1 && run > 0) {
      const last = position + run - 1;
      const firstColumn = Math.floor(position / height);
      const lastColumn = Math.floor(last / height);
      left = Math.min(left, firstColumn);
      right = Math.max(right, lastColumn + 1);
      if (lastColumn > firstColumn) {
        top = 0;
        bottom = height;
      } else {
        top = Math.min(top, position % height);
        bottom = Math.max(bottom, (last % height) + 1);
      }
    }
    position += run;
  }
  return left === Infinity ? null : { x: left, y: top, width: right - left, height: bottom - top };
}

/**
 * The same mask on another canvas: cut or padded with background at the right and below. Works on the runs alone, so
 * that a canvas of any claimed size takes no memory.
 */
export function resizeCanvas(
  counts: readonly number[],
  from: { width: number; height: number },
  to: { width: number; height: number },
): number[] {
  const out: number[] = [];
  let written = 0;
  const fill = (start: number, end: number) => {
    const gap = start - written;
    if (gap === 0 && out.length > 0) out[out.length - 1] = (out[out.length - 1] as number) + end - start;
    else out.push(gap, end - start);
    written = end;
  };
  const total = Math.min(from.width, to.width) * from.height;
  let position = 0;
  for (let i = 0; i < counts.length && position < total; i++) {
    const end = Math.min(total, position + (counts[i] as number));
    if (i % 2 === 1)
      for (let at = position; at < end;) {
        const column = Math.floor(at / from.height);
        const top = at - column * from.height;
        const bottom = Math.min(from.height, top + end - at);
        const [first, last] = [Math.min(top, to.height), Math.min(bottom, to.height)];
        if (last > first) fill(column * to.height + first, column * to.height + last);
        at = column * from.height + bottom;
      }
    position = end;
  }
  if (written < to.width * to.height) out.push(to.width * to.height - written);
  return out;
}
