/** Columns and rows of the grey picture that is hashed, and how many of its lowest frequencies count each way. */
export const hashedEdge = 32;
const frequencies = 16;

const half = hashedEdge / 2;

/**
 * The cosine of frequency `k` at place `i`, at `k * half + i`; the other half of each wave mirrors the first, with its
 * sign turned for odd `k`.
 */
const cosines = Float64Array.from({ length: frequencies * half }, (_, at) =>
  Math.cos((Math.PI * ((at % half) + 0.5) * Math.floor(at / half)) / hashedEdge),
);

/**
 * The lowest frequencies of `lines` lines of `hashedEdge` values: value `i` of line `n` lies at `n * line + i * step`,
 * frequency `k` goes to `k * lines + n`.
 */
function lowFrequencies(values: ArrayLike<number>, lines: number, line: number, step: number): Float64Array {
  const out = new Float64Array(frequencies * lines);
  // Sums of mirrored places serve the even frequencies, differences the odd ones.
  const folded = [new Float64Array(half), new Float64Array(half)] as const;
  for (let n = 0; n < lines; n++) {
    for (let i = 0; i < half; i++) {
      const near = values[n * line + i * step] as number;
      const far = values[n * line + (hashedEdge - 1 - i) * step] as number;
      folded[0][i] = near + far;
      folded[1][i] = near - far;
    }
    for (let k = 0; k < frequencies; k++) {
      const wave = k % 2 === 0 ? folded[0] : folded[1];
      let sum = 0;
      for (let i = 0; i < half; i++) sum += (wave[i] as number) * (cosines[k * half + i] as number);
      out[k * lines + n] = sum;
    }
  }
  return out;
}

/**
 * A perceptual hash of 256 bits in hexadecimal, from 32 × 32 grey values (0…255, row by row): the 16 × 16 lowest
 * frequencies of the discrete cosine transform, each 1 where it is above their median; the first, which is the mean
 * brightness, is always 0. After C. Zauner, "Implementation and Benchmarking of Perceptual Image Hash Functions", 2010.
 */
export function perceptualHash(grey: ArrayLike<number>): string {
  // Across each row, then down each column of what that gave.
  const across = lowFrequencies(grey, hashedEdge, hashedEdge, 1);
  // What is left of nothing after rounding must not count as something.
  const coefficients = lowFrequencies(across, frequencies, hashedEdge, 1).map((sum) =>
    Math.abs(sum) < 1e-6 ? 0 : sum,
  );
  const others = coefficients.slice(1).sort();
  const median = others[others.length >> 1] as number;
  let hash = "";
  for (let at = 0; at < coefficients.length; at += 4) {
    let bits = 0;
    for (let bit = 0; bit < 4; bit++)
      bits = bits * 2 + (at + bit > 0 && (coefficients[at + bit] as number) > median ? 1 : 0);
    hash += bits.toString(16);
  }
  return hash;
}
