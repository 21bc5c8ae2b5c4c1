// AssemblyScript. One pass over an output's pixels: looked up through an affine map, interpolated linearly, toned, rounded.
// A row is looked up in whole numbers, pixel by pixel; its tones are worked out in single precision, four pixels at once.

/** Levels between the two steps are counted in 1/2²⁰: 6 bits of the vertical, 14 of the horizontal interpolation. */
const levelScale: f32 = 1.0 / 1048576.0;

@inline
function clipped(levels: v128): v128 {
  return f32x4.pmin(f32x4.splat(255), f32x4.pmax(f32x4.splat(0), levels));
}

@inline
function times(levels: v128, factor: usize): v128 {
  return f32x4.mul(levels, v128.load32_splat(factor));
}

/** Bytes of a stage: its kind and twelve numbers. */
const stageBytes: usize = 64;

/**
 * A row of the output before its tones, four whole numbers a pixel, of which the last is not used. Pixels of the source
 * are three bytes. What is read to the right of and below the source's edge counts for nothing.
 */
@inline
function sampleRow(
  source: usize,
  stride: usize,
  mostX: i32,
  mostY: i32,
  row: usize,
  width: i32,
  startU: i32,
  startV: i32,
  stepX: i32,
  stepY: i32,
): void {
  let u = startU;
  let v = startV;
  const end = row + ((<usize>width) << 4);
  for (let to = row; to < end; to += 16) {
    const px = u < 0 ? 0 : u > mostX ? mostX : u;
    const py = v < 0 ? 0 : v > mostY ? mostY : v;
    u += stepX;
    v += stepY;
    const first = source + <usize>(py >> 16) * stride + <usize>(px >> 16) * 3;
    const above = i16x8.shl(v128.load8x8_u(first), 6);
    const below = i16x8.shl(v128.load8x8_u(first + stride), 6);
    const down = i16x8.splat(<i16>((py & 0xffff) >> 1));
    const between = i16x8.add(above, i16x8.q15mulr_sat_s(i16x8.sub(below, above), down));
    const pairs = i16x8.shuffle(between, between, 0, 3, 1, 4, 2, 5, 6, 7);
    const right = (px & 0xffff) >> 2;
    v128.store(to, i32x4.dot_i16x8_s(pairs, i32x4.splat((right << 16) | (16384 - right))));
  }
}

/**
 * Tones in turn on a row, and its bytes. Kind 0: the first three numbers as factors of the channels, the fourth is added.
 * Kind 1: a channel is the sum of the three by numbers 0 to 2, 4 to 6 and 8 to 10. Writes whole groups of four pixels and
 * four bytes more.
 */
@inline
function toneRow(row: usize, target: usize, width: i32, stages: usize, count: i32): void {
  const scale = f32x4.splat(levelScale);
  const half = f32x4.splat(0.5);
  let to = target;
  const end = row + ((<usize>width) << 4);
  const lastStage = stages + <usize>count * stageBytes;
  for (let from = row; from < end; from += 64) {
    const p0 = v128.load(from);
    const p1 = v128.load(from, 16);
    const p2 = v128.load(from, 32);
    const p3 = v128.load(from, 48);
    const a = i32x4.shuffle(p0, p1, 0, 4, 1, 5);
    const b = i32x4.shuffle(p2, p3, 0, 4, 1, 5);
    const c = i32x4.shuffle(p0, p1, 2, 6, 2, 6);
    const d = i32x4.shuffle(p2, p3, 2, 6, 2, 6);
    let red = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(a, b, 0, 1, 4, 5)), scale);
    let green = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(a, b, 2, 3, 6, 7)), scale);
    let blue = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(c, d, 0, 1, 4, 5)), scale);
    for (let stage = stages; stage < lastStage; stage += stageBytes) {
      const numbers = stage + 16;
      if (load<i32>(stage) == 0) {
        const offset = v128.load32_splat(numbers, 12);
        red = clipped(f32x4.add(times(red, numbers), offset));
        green = clipped(f32x4.add(times(green, numbers + 4), offset));
        blue = clipped(f32x4.add(times(blue, numbers + 8), offset));
      } else {
        const r = f32x4.add(f32x4.add(times(red, numbers), times(green, numbers + 4)), times(blue, numbers + 8));
        const g = f32x4.add(f32x4.add(times(red, numbers + 16), times(green, numbers + 20)), times(blue, numbers + 24));
        const n = f32x4.add(f32x4.add(times(red, numbers + 32), times(green, numbers + 36)), times(blue, numbers + 40));
        red = clipped(r);
        green = clipped(g);
        blue = clipped(n);
      }
    }
    const redBytes = i32x4.trunc_sat_f32x4_s(f32x4.add(red, half));
    const greenBytes = i32x4.shl(i32x4.trunc_sat_f32x4_s(f32x4.add(green, half)), 8);
    const blueBytes = i32x4.shl(i32x4.trunc_sat_f32x4_s(f32x4.add(blue, half)), 16);
    const pixels = v128.or(v128.or(redBytes, greenBytes), blueBytes);
    v128.store(to, i8x16.shuffle(pixels, pixels, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 3, 3, 3, 3));
    to += 12;
  }
}

/**
 * Samples `source` (sourceWidth × sourceHeight) into `target` (width × height). `back` holds six doubles: the map from the
 * target to the source, x then y. Places beyond the source are its edge. `row` has room for four numbers for each of the
 * output's pixels in a row, rounded up to four pixels; behind the source lies a row and eight bytes that may be read, behind
 * the target sixteen bytes that may be written.
 */
export function sample(
  source: usize,
  sourceWidth: i32,
  sourceHeight: i32,
  target: usize,
  width: i32,
  height: i32,
  back: usize,
  stages: usize,
  count: i32,
  row: usize,
): void {
  const a = load<f64>(back);
  const b = load<f64>(back, 8);
  const c = load<f64>(back, 16);
  const d = load<f64>(back, 24);
  const e = load<f64>(back, 32);
  const f = load<f64>(back, 40);
  // Places in 1/65536 of a pixel: exact to a hundredth of a level, and without a conversion for each pixel.
  const mostX = (sourceWidth - 1) << 16;
  const mostY = (sourceHeight - 1) << 16;
  const stepX = <i32>Math.round(a * 65536);
  const stepY = <i32>Math.round(d * 65536);
  const stride = <usize>sourceWidth * 3;
  for (let line = 0; line < height; line++) {
    const y = <f64>line + 0.5;
    const u = <i32>Math.round((a * 0.5 + b * y + c - 0.5) * 65536);
    const v = <i32>Math.round((d * 0.5 + e * y + f - 0.5) * 65536);
    sampleRow(source, stride, mostX, mostY, row, width, u, v, stepX, stepY);
    toneRow(row, target + <usize>line * <usize>width * 3, width, stages, count);
  }
}

export { reserve } from "./reserve";
