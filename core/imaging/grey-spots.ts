import { hashedEdge } from "./perceptual-hash";

/** Of a larger picture so many pixels each way are enough for means that do not change by a bit. */
const sampledEdge = 64;

/** The spot, along one edge of `length` pixels, of every `step`-th pixel. */
function sampledSpots(length: number, step: number): Uint8Array {
  const first = step >> 1;
  const spots = new Uint8Array(Math.ceil((length - first) / step));
  for (let n = 0; n < spots.length; n++) spots[n] = Math.floor(((first + n * step) * hashedEdge) / length);
  return spots;
}

function countsOf(spots: Uint8Array): Uint32Array {
  const counts = new Uint32Array(hashedEdge);
  for (const spot of spots) counts[spot] = (counts[spot] as number) + 1;
  return counts;
}

/**
 * A picture as 32 × 32 grey spots (0…255), each the mean brightness of its share of the pixels (of a large picture,
 * of every second or third one); a pixel belongs to the spot
 * that its corner lies in. `pixels` are rows of `channels` bytes (1 grey, 2 with alpha, 3 RGB, 4 with alpha; alpha
 * does not
 * count). Brightness is that of Recommendation ITU-R BT.601.
 */
export function greySpots(pixels: Uint8Array, width: number, height: number, channels: number): Float64Array {
  const sums = new Float64Array(hashedEdge * hashedEdge);
  const step = Math.max(1, Math.floor(Math.min(width, height) / sampledEdge));
  const columns = sampledSpots(width, step);
  const rows = sampledSpots(height, step);
  const coloured = channels >= 3;
  const stride = step * channels;
  for (let line = 0; line < rows.length; line++) {
    const row = (rows[line] as number) * hashedEdge;
    let at = (((step >> 1) + line * step) * width + (step >> 1)) * channels;
    for (let n = 0; n < columns.length; n++, at += stride) {
      const spot = row + (columns[n] as number);
      sums[spot] =
        (sums[spot] as number) +
        (coloured
          ? 299 * (pixels[at] as number) + 587 * (pixels[at + 1] as number) + 114 * (pixels[at + 2] as number)
          : 1000 * (pixels[at] as number));
    }
  }
  const across = countsOf(columns);
  const down = countsOf(rows);
  // A picture smaller than the spots leaves some empty; they take their left neighbour's, or the one's above.
  for (let spot = 0; spot < sums.length; spot++) {
    const count = (across[spot % hashedEdge] as number) * (down[Math.floor(spot / hashedEdge)] as number);
    const neighbour = spot % hashedEdge > 0 ? spot - 1 : spot - hashedEdge;
    sums[spot] = count > 0 ? (sums[spot] as number) / (1000 * count) : neighbour >= 0 ? (sums[neighbour] as number) : 0;
  }
  return sums;
}
