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
  const luma = new Float64Array(width * height);
  const sums = [0, 0, 0];
  let burnt = 0;
  const [green, blue] = channels >= 3 ? [1, 2] : [0, 0];
  for (let n = 0, at = 0; n < luma.length; n++, at += channels) {
    const [r, g, b] = [data[at] as number, data[at + green] as number, data[at + blue] as number];
    luma[n] = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    sums[0] = (sums[0] as number) + r;
    sums[1] = (sums[1] as number) + g;
    sums[2] = (sums[2] as number) + b;
    if (Math.min(r, g, b) >= burntFrom) burnt++;
  }
  const count = Math.max(1, luma.length);
  const { mean, variance } = momentsOf(luma);
  const means = sums.map((sum) => sum / count);
  return {
    brightness: mean,
    contrast: Math.sqrt(variance),
    cast: Math.max(...means) - Math.min(...means),
    sharpness: momentsOf(laplacian(luma, width, height)).variance,
    burnt: burnt / count,
  };
}

function momentsOf(values: Float64Array): { mean: number; variance: number } {
  if (values.length === 0) return { mean: 0, variance: 0 };
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / values.length;
  return { mean, variance };
}

/** Of each pixel that has four neighbours how far these lie from it in sum. */
function laplacian(luma: Float64Array, width: number, height: number): Float64Array {
  const inside = new Float64Array(Math.max(0, width - 2) * Math.max(0, height - 2));
  let to = 0;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const at = y * width + x;
      const around = [luma[at - 1], luma[at + 1], luma[at - width], luma[at + width]] as [
        number,
        number,
        number,
        number,
      ];
      inside[to++] = around[0] + around[1] + around[2] + around[3] - 4 * (luma[at] as number);
    }
  return inside;
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
