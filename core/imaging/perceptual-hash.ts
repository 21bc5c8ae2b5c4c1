/** Columns and rows of the grey picture that is hashed, and how many of its lowest frequencies count each way. */
export const hashedEdge = 32;
const frequencies = 16;

const cosines = Array.from({ length: frequencies }, (_, k) => Float64Array.from({ length: hashedEdge }, (_, i) => Math.cos((Math.PI * (i + 0.5) * k) / hashedEdge)));

/**
 * A perceptual hash of 256 bits in hexadecimal, from 32 × 32 grey values (0…255, row by row): the 16 × 16 lowest
 * frequencies of the discrete cosine transform, each 1 where it is above their median; the first, which is the mean
 * brightness, is always 0. After C. Zauner, "Implementation and Benchmarking of Perceptual Image Hash Functions", 2010.
 */
export function perceptualHash(grey: ArrayLike<number>): string {
  const byRow = new Float64Array(hashedEdge * frequencies);
  for (let y = 0; y < hashedEdge; y++) {
    for (let k = 0; k < frequencies; k++) {
      const wave = cosines[k] as Float64Array;
      let sum = 0;
      for (let x = 0; x < hashedEdge; x++) sum += (grey[y * hashedEdge + x] as number) * (wave[x] as number);
      byRow[y * frequencies + k] = sum;
    }
  }
  const coefficients = new Float64Array(frequencies * frequencies);
  for (let l = 0; l < frequencies; l++) {
    const wave = cosines[l] as Float64Array;
    for (let k = 0; k < frequencies; k++) {
      let sum = 0;
      for (let y = 0; y < hashedEdge; y++) sum += (byRow[y * frequencies + k] as number) * (wave[y] as number);
      // What is left of nothing after rounding must not count as something.
      coefficients[l * frequencies + k] = Math.abs(sum) < 1e-6 ? 0 : sum;
    }
  }
  const others = coefficients.slice(1).sort();
  const median = others[others.length >> 1] as number;
  let hash = "";
  for (let at = 0; at < coefficients.length; at += 4) {
    let bits = 0;
    for (let bit = 0; bit < 4; bit++) bits = bits * 2 + (at + bit > 0 && (coefficients[at + bit] as number) > median ? 1 : 0);
    hash += bits.toString(16);
  }
  return hash;
}
