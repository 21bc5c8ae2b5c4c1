// AssemblyScript. One pass over an output's pixels: looked up through an affine map, interpolated linearly, toned, rounded.
// Four pixels at once: looked up in whole numbers one after the other, their tones worked out in single precision.

/** Levels between the two steps are counted in 1/2²⁰: 6 bits of the vertical, 14 of the horizontal interpolation. */
const levelBits: i32 = 20;
const levelScale: f32 = 1.0 / 1048576.0;

/** Bytes of a stage: its kind and twelve numbers. */
const stageBytes: usize = 64;

@inline
function clipped(levels: v128): v128 {
  return f32x4.pmin(f32x4.splat(255), f32x4.pmax(f32x4.splat(0), levels));
}

@inline
function times(levels: v128, factor: usize): v128 {
  return f32x4.mul(levels, v128.load32_splat(factor));
}

@inline
function clampTo(place: i32, most: i32): i32 {
  return place < 0 ? 0 : place > most ? most : place;
}

/**
 * The levels at a place within the source, in 1/65536 of a pixel: four whole numbers, of which the last is not used. Pixels
 * of the source are three bytes. What is read to the right of and below the source's edge counts for nothing.
 */
@inline
function levelsAt(source: usize, stride: usize, px: i32, py: i32): v128 {
  const first = source + <usize>(py >> 16) * stride + <usize>(px >> 16) * 3;
  const above = i16x8.shl(v128.load8x8_u(first), 6);
  const below = i16x8.shl(v128.load8x8_u(first + stride), 6);
  const down = i16x8.splat(<i16>((py & 0xffff) >> 1));
  const between = i16x8.add(above, i16x8.q15mulr_sat_s(i16x8.sub(below, above), down));
  const pairs = i16x8.shuffle(between, between, 0, 3, 1, 4, 2, 5, 6, 7);
  const right = (px & 0xffff) >> 2;
  return i32x4.dot_i16x8_s(pairs, i32x4.splat((right << 16) | (16384 - right)));
}

/** Four pixels of four bytes written as twelve, and four bytes more. */
@inline
function writePixels(to: usize, pixels: v128): void {
  v128.store(to, i8x16.shuffle(pixels, pixels, 0, 1, 2, 4, 5, 6, 8, 9, 10, 12, 13, 14, 3, 3, 3, 3));
}

@inline
function rounded(levels: v128): v128 {
  return i32x4.shr_s(i32x4.add(levels, i32x4.splat(1 << (levelBits - 1))), levelBits);
}

/** Writes four pixels as they were looked up. */
@inline
function writeAsTheyAre(to: usize, p0: v128, p1: v128, p2: v128, p3: v128): void {
  const first = i16x8.narrow_i32x4_s(rounded(p0), rounded(p1));
  const second = i16x8.narrow_i32x4_s(rounded(p2), rounded(p3));
  writePixels(to, i8x16.narrow_i16x8_u(first, second));
}

/**
 * Writes four pixels after tones in turn. Kind 0: the first three numbers as factors of the channels, the fourth is added.
 * Kind 1: a channel is the sum of the three by numbers 0 to 2, 4 to 6 and 8 to 10.
 */
@inline
function writeToned(to: usize, p0: v128, p1: v128, p2: v128, p3: v128, stages: usize, afterStages: usize): void {
  const scale = f32x4.splat(levelScale);
  const half = f32x4.splat(0.5);
  const a = i32x4.shuffle(p0, p1, 0, 4, 1, 5);
  const b = i32x4.shuffle(p2, p3, 0, 4, 1, 5);
  const c = i32x4.shuffle(p0, p1, 2, 6, 2, 6);
  const d = i32x4.shuffle(p2, p3, 2, 6, 2, 6);
  let red = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(a, b, 0, 1, 4, 5)), scale);
  let green = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(a, b, 2, 3, 6, 7)), scale);
  let blue = f32x4.mul(f32x4.convert_i32x4_s(i32x4.shuffle(c, d, 0, 1, 4, 5)), scale);
  for (let stage = stages; stage < afterStages; stage += stageBytes) {
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
  writePixels(to, v128.or(v128.or(redBytes, greenBytes), blueBytes));
}

/**
 * Samples `source` (sourceWidth × sourceHeight) into `target` (width × height). `back` holds six doubles: the map from the
 * target to the source, x then y. Places beyond the source are its edge. Behind the source lies a row and eight bytes that
 * may be read, behind the target sixteen bytes that may be written.
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
  const afterStages = stages + <usize>count * stageBytes;
  for (let line = 0; line < height; line++) {
    const y = <f64>line + 0.5;
    let u = <i32>Math.round((a * 0.5 + b * y + c - 0.5) * 65536);
    let v = <i32>Math.round((d * 0.5 + e * y + f - 0.5) * 65536);
    let to = target + <usize>line * <usize>width * 3;
    for (let column = 0; column < width; column += 4) {
      const lastU = u + 3 * stepX;
      const lastV = v + 3 * stepY;
      let p0: v128, p1: v128, p2: v128, p3: v128;
      // Where the first and the last of four lie within the source, so do those between: nothing is to be clamped.
      if (<u32>u <= <u32>mostX && <u32>lastU <= <u32>mostX && <u32>v <= <u32>mostY && <u32>lastV <= <u32>mostY) {
        p0 = levelsAt(source, stride, u, v);
        p1 = levelsAt(source, stride, u + stepX, v + stepY);
        p2 = levelsAt(source, stride, u + 2 * stepX, v + 2 * stepY);
        p3 = levelsAt(source, stride, lastU, lastV);
      } else {
        p0 = levelsAt(source, stride, clampTo(u, mostX), clampTo(v, mostY));
        p1 = levelsAt(source, stride, clampTo(u + stepX, mostX), clampTo(v + stepY, mostY));
        p2 = levelsAt(source, stride, clampTo(u + 2 * stepX, mostX), clampTo(v + 2 * stepY, mostY));
        p3 = levelsAt(source, stride, clampTo(lastU, mostX), clampTo(lastV, mostY));
      }
      if (count == 0) writeAsTheyAre(to, p0, p1, p2, p3);
      else writeToned(to, p0, p1, p2, p3, stages, afterStages);
      u += 4 * stepX;
      v += 4 * stepY;
      to += 12;
    }
  }
}

export { reserve } from "./reserve";
