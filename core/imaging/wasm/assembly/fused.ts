// AssemblyScript. One pass over an output's pixels: looked up through an affine map, interpolated linearly, toned, rounded.
// Pixels are three bytes; a pixel is held as four single-precision lanes, of which the last is not used. What is read of
// the byte behind a row's last pixel is never written.

/** Four bytes at a place as four numbers. */
@inline
function pixelAt(place: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(place))));
}

@inline
function clipped(levels: v128): v128 {
  return f32x4.pmin(f32x4.splat(255), f32x4.pmax(f32x4.splat(0), levels));
}

/** Bytes of a stage: its kind and three vectors, each at a multiple of sixteen. */
const stageBytes: usize = 64;

/**
 * Tones in turn. Kind 0: times the first vector, plus the second. Kind 1: red times the first, green times the second,
 * blue times the third vector, summed.
 */
@inline
function toned(levels: v128, stages: usize, count: i32): v128 {
  let value = levels;
  for (let n = 0; n < count; n++) {
    const stage = stages + <usize>n * stageBytes;
    const first = v128.load(stage, 16);
    const second = v128.load(stage, 32);
    if (load<i32>(stage) == 0) value = f32x4.add(f32x4.mul(value, first), second);
    else {
      const red = f32x4.splat(f32x4.extract_lane(value, 0));
      const green = f32x4.splat(f32x4.extract_lane(value, 1));
      const blue = f32x4.splat(f32x4.extract_lane(value, 2));
      const mixed = f32x4.add(f32x4.mul(red, first), f32x4.mul(green, second));
      value = f32x4.add(mixed, f32x4.mul(blue, v128.load(stage, 48)));
    }
    value = clipped(value);
  }
  return value;
}

/**
 * Samples `source` (sourceWidth × sourceHeight) into `target` (width × height). `back` holds six doubles: the map from the
 * target to the source, x then y. Places beyond the source are its edge.
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
  let to = target;
  for (let row = 0; row < height; row++) {
    const y = <f64>row + 0.5;
    let u = <i32>Math.round((a * 0.5 + b * y + c - 0.5) * 65536);
    let v = <i32>Math.round((d * 0.5 + e * y + f - 0.5) * 65536);
    for (let column = 0; column < width; column++) {
      const px = u < 0 ? 0 : u > mostX ? mostX : u;
      const py = v < 0 ? 0 : v > mostY ? mostY : v;
      u += stepX;
      v += stepY;
      const left = px >> 16;
      const top = py >> 16;
      const fu = f32x4.splat(<f32>(px & 0xffff) * <f32>(1.0 / 65536.0));
      const fv = f32x4.splat(<f32>(py & 0xffff) * <f32>(1.0 / 65536.0));
      const first = source + <usize>top * stride + <usize>left * 3;
      const right: usize = px < mostX ? 3 : 0;
      const second = first + (py < mostY ? stride : 0);
      const p00 = pixelAt(first);
      const p10 = pixelAt(second);
      const above = f32x4.add(p00, f32x4.mul(f32x4.sub(pixelAt(first + right), p00), fu));
      const below = f32x4.add(p10, f32x4.mul(f32x4.sub(pixelAt(second + right), p10), fu));
      const mixed = f32x4.add(above, f32x4.mul(f32x4.sub(below, above), fv));
      const rounded = i32x4.trunc_sat_f32x4_s(f32x4.add(toned(mixed, stages, count), f32x4.splat(0.5)));
      store<u8>(to, <u8>i32x4.extract_lane(rounded, 0));
      store<u8>(to, <u8>i32x4.extract_lane(rounded, 1), 1);
      store<u8>(to, <u8>i32x4.extract_lane(rounded, 2), 2);
      to += 3;
    }
  }
}

/** Makes room for so many bytes of memory in all. */
export function reserve(bytes: usize): void {
  const pages = <i32>((bytes + 0xffff) >>> 16);
  const there = memory.size();
  if (pages > there && memory.grow(pages - there) < 0) unreachable();
}
