/** What a picture is like as a whole, whatever it shows. */
import type { Pixels } from "./features";

export type PictureMeasures = {
  /** Mean luma, 0 … 255 (Rec. ITU-R BT.709, of the encoded values). */
  brightness: number;
  /** Standard deviation of the luma. */
  contrast: number;
  /** How far the means of red, green and blue lie apart, 0 … 255: none in a picture that is grey on average. */
  cast: number;
  /** Variance of the Laplacian of the luma (Pech-Pacheco et al., ICPR 2000). */
  sharpness: number;
  /** Share of pixels of which no channel is under 250, 0 … 1. */
  burnt: number;
};
export const measureNames = ["brightness", "contrast", "cast", "sharpness", "burnt"] as const;
export const measuresLength = 4 * measureNames.length;

const burntFrom = 250;

/** Measures of a picture's pixels (8 bits a channel; one, or three and more of which a fourth is ignored). */
export function pictureMeasures({ data, width, height, channels }: Pixels): PictureMeasures {
  const luma = new Float32Array(width * height);
  const [green, blue] = channels >= 3 ? [1, 2] : [0, 0];
  let [reds, greens, blues, burnt, squares] = [0, 0, 0, 0, 0];
  for (let n = 0, at = 0; n < luma.length; n++, at += channels) {
    const r = data[at] as number;
    const g = data[at + green] as number;
    const b = data[at + blue] as number;
    const value = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    luma[n] = value;
    squares += value * value;
    reds += r;
    greens += g;
    blues += b;
    if (r >= burntFrom && g >= burntFrom && b >= burntFrom) burnt++;
  }
  const count = Math.max(1, luma.length);
  const brightness = (0.2126 * reds + 0.7152 * greens + 0.0722 * blues) / count;
  return {
    brightness,
    contrast: Math.sqrt(Math.max(0, squares / count - brightness * brightness)),
    cast: (Math.max(reds, greens, blues) - Math.min(reds, greens, blues)) / count,
    sharpness: laplacianVariance(luma, width, height),
    burnt: burnt / count,
  };
}

/** The variance, over pixels that have four neighbours, of how far these lie from the pixel in sum. */
function laplacianVariance(luma: Float32Array, width: number, height: number): number {
  const count = Math.max(0, width - 2) * Math.max(0, height - 2);
  if (count === 0) return 0;
  let [sum, squares] = [0, 0];
  for (let y = 1; y < height - 1; y++)
    for (let at = y * width + 1; at < (y + 1) * width - 1; at++) {
      const value =
        (luma[at - 1] as number) +
        (luma[at + 1] as number) +
        (luma[at - width] as number) +
        (luma[at + width] as number) -
        4 * (luma[at] as number);
      sum += value;
      squares += value * value;
    }
  return Math.max(0, squares / count - (sum / count) ** 2);
}

/** Measures as bytes: single precision, little end first, in the order of `measureNames`. */
export function packMeasures(measures: PictureMeasures): Uint8Array {
  const view = new DataView(new ArrayBuffer(measuresLength));
  measureNames.forEach((name, n) => view.setFloat32(4 * n, measures[name], true));
  return new Uint8Array(view.buffer);
}

/** The measures in some bytes; null where these are none. */
export function unpackMeasures(bytes: Uint8Array): PictureMeasures | null {
  if (bytes.length !== measuresLength) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  return Object.fromEntries(measureNames.map((name, n) => [name, view.getFloat32(4 * n, true)])) as PictureMeasures;
}
