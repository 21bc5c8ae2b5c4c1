import { hashedEdge } from "./perceptual-hash";

/** Of a larger picture so many pixels each way are enough for means that do not change by a bit. */
const sampledEdge = 64;

/**
 * A picture as 32 × 32 grey spots (0…255), each the mean brightness of its share of the pixels (of a large picture, of every second or third one); a pixel belongs to the spot
 * that its corner lies in. `pixels` are rows of `channels` bytes (1 grey, 2 with alpha, 3 RGB, 4 with alpha; alpha does not
 * count). Brightness is that of Recommendation ITU-R BT.601.
 */
export function greySpots(pixels: Uint8Array, width: number, height: number, channels: number): Float64Array {
  const sums = new Float64Array(hashedEdge * hashedEdge);
  const counts = new Float64Array(hashedEdge * hashedEdge);
  const column = Uint8Array.from({ length: width }, (_, x) => Math.floor((x * hashedEdge) / width));
  const coloured = channels >= 3;
  const step = Math.max(1, Math.floor(Math.min(width, height) / sampledEdge));
  for (let y = step >> 1; y < height; y += step) {
    const row = Math.floor((y * hashedEdge) / height) * hashedEdge;
    for (let x = step >> 1; x < width; x += step) {
      const at = (y * width + x) * channels;
      const spot = row + (column[x] as number);
      const value = coloured ? 0.299 * (pixels[at] as number) + 0.587 * (pixels[at + 1] as number) + 0.114 * (pixels[at + 2] as number) : (pixels[at] as number);
      sums[spot] = (sums[spot] as number) + value;
      counts[spot] = (counts[spot] as number) + 1;
    }
  }
  // A picture smaller than the spots leaves some empty; they take their left neighbour's, or the one's above.
  for (let spot = 0; spot < sums.length; spot++) {
    const count = counts[spot] as number;
    const neighbour = spot % hashedEdge > 0 ? spot - 1 : spot - hashedEdge;
    sums[spot] = count > 0 ? (sums[spot] as number) / count : neighbour >= 0 ? (sums[neighbour] as number) : 0;
  }
  return sums;
}
