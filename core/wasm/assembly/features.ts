// AssemblyScript. Features of 128 bytes by their squared distances: from each other, sixteen bytes at a time, and from the
// centres of classes, four numbers at a time.

const featureBytes: usize = 128;

/** The sum over sixteen bytes of the squares of their differences, in four parts. */
@inline
function squares(a: usize, b: usize): v128 {
  const x = v128.load(a);
  const y = v128.load(b);
  const low = i16x8.sub(i16x8.extend_low_i8x16_u(x), i16x8.extend_low_i8x16_u(y));
  const high = i16x8.sub(i16x8.extend_high_i8x16_u(x), i16x8.extend_high_i8x16_u(y));
  return i32x4.add(i32x4.dot_i16x8_s(low, low), i32x4.dot_i16x8_s(high, high));
}

@inline
function total(parts: v128): i32 {
  return (
    i32x4.extract_lane(parts, 0) +
    i32x4.extract_lane(parts, 1) +
    i32x4.extract_lane(parts, 2) +
    i32x4.extract_lane(parts, 3)
  );
}

/** The squared distance of two features; at least `limit` where it is that or more. */
@inline
function distance(a: usize, b: usize, limit: i32): i32 {
  const first = i32x4.add(squares(a, b), squares(a + 16, b + 16));
  const half = i32x4.add(first, i32x4.add(squares(a + 32, b + 32), squares(a + 48, b + 48)));
  const soFar = total(half);
  if (soFar >= limit) return soFar;
  const third = i32x4.add(squares(a + 64, b + 64), squares(a + 80, b + 80));
  return soFar + total(i32x4.add(third, i32x4.add(squares(a + 96, b + 96), squares(a + 112, b + 112))));
}

/** Puts an item in its place among the `kept` nearest, nearest first. */
@inline
function insert(items: usize, distances: usize, kept: i32, item: i32, away: i32): void {
  let at = kept - 1;
  for (; at > 0; at--) {
    const before = load<i32>(distances + (<usize>(at - 1) << 2));
    if (before <= away) break;
    store<i32>(distances + (<usize>at << 2), before);
    store<i32>(items + (<usize>at << 2), load<i32>(items + (<usize>(at - 1) << 2)));
  }
  store<i32>(distances + (<usize>at << 2), away);
  store<i32>(items + (<usize>at << 2), item);
}

/**
 * Takes whichever of the features from `first` to before `last` of those at `features` are near to the one at `from` into
 * `items` and `distances`, which hold the `kept` nearest so far, nearest first.
 */
export function takeNear(
  from: usize,
  features: usize,
  first: i32,
  last: i32,
  items: usize,
  distances: usize,
  kept: i32,
): void {
  const farthest = distances + (<usize>(kept - 1) << 2);
  let limit = load<i32>(farthest);
  for (let other = first; other < last; other++) {
    const at = features + <usize>other * featureBytes;
    if (at == from) continue;
    const away = distance(from, at, limit);
    if (away >= limit) continue;
    insert(items, distances, kept, other, away);
    limit = load<i32>(farthest);
  }
}

/** Looks at one more feature, once for each item; 1 where it is nearer than one that was kept. */
@inline
function look(
  features: usize,
  item: i32,
  other: i32,
  items: usize,
  distances: usize,
  kept: i32,
  seen: usize,
): i32 {
  if (other < 0 || load<i32>(seen + (<usize>other << 2)) == item) return 0;
  store<i32>(seen + (<usize>other << 2), item);
  const limit = load<i32>(distances + (<usize>(kept - 1) << 2));
  const away = distance(features + <usize>item * featureBytes, features + <usize>other * featureBytes, limit);
  if (away >= limit) return 0;
  insert(items, distances, kept, other, away);
  return 1;
}

/**
 * One round of NN-descent: looks at the neighbours of each one's neighbours (`links`), and of those whose neighbour it is
 * (`reverse`), where either is fresh. All have `kept` numbers for each of `count` items, -1 for none; `seen` has one for
 * each, none of which is an item's. Returns how many nearer ones were found.
 */
export function refine(
  features: usize,
  count: i32,
  kept: i32,
  items: usize,
  distances: usize,
  links: usize,
  isFresh: usize,
  reverse: usize,
  isReverseFresh: usize,
  seen: usize,
): i32 {
  let found = 0;
  for (let item = 0; item < count; item++) {
    const start = item * kept;
    const own = items + (<usize>start << 2);
    const ownDistances = distances + (<usize>start << 2);
    store<i32>(seen + (<usize>item << 2), item);
    for (let at = start; at < start + kept; at++) {
      const other = load<i32>(links + (<usize>at << 2));
      if (other >= 0) store<i32>(seen + (<usize>other << 2), item);
    }
    for (let side = 0; side < 2; side++) {
      const around = side == 0 ? links : reverse;
      const fresh = side == 0 ? isFresh : isReverseFresh;
      for (let at = start; at < start + kept; at++) {
        const other = load<i32>(around + (<usize>at << 2));
        if (other < 0) continue;
        found += look(features, item, other, own, ownDistances, kept, seen);
        const all = load<u8>(fresh + <usize>at) == 1;
        for (let next = other * kept; next < (other + 1) * kept; next++)
          if (all || load<u8>(isFresh + <usize>next) == 1)
            found += look(features, item, load<i32>(links + (<usize>next << 2)), own, ownDistances, kept, seen);
      }
    }
  }
  return found;
}

/** The four bytes from `at` on as whole numbers. */
@inline
function wholes(at: usize): v128 {
  return i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at)));
}

/** The four numbers that begin at a byte. */
@inline
function numbers(at: usize): v128 {
  return f32x4.convert_i32x4_u(wholes(at));
}

/** The sum of the four numbers of each of two vectors. */
@inline
function sumOf(first: v128, second: v128): f32 {
  const sums = f32x4.add(first, second);
  return (
    f32x4.extract_lane(sums, 0) +
    f32x4.extract_lane(sums, 1) +
    f32x4.extract_lane(sums, 2) +
    f32x4.extract_lane(sums, 3)
  );
}

/**
 * For each of `count` features, which begin at `places` (-1 for none), its distance from the centre of its own class; NaN
 * where it has none. `own`: the number of that centre for each, -1 for none; `centres`: 128 single precision numbers each.
 */
export function fromOwn(places: usize, count: i32, own: usize, centres: usize, result: usize): void {
  for (let item: usize = 0; item < <usize>count; item++) {
    const from = load<i32>(places + (item << 2));
    const ownClass = load<i32>(own + (item << 2));
    let away: f32 = f32.NaN;
    if (from >= 0 && ownClass >= 0) {
      const centre = centres + <usize>ownClass * featureBytes * 4;
      let first = f32x4.splat(0);
      let second = f32x4.splat(0);
      for (let n: usize = 0; n < featureBytes; n += 8) {
        const a = f32x4.sub(numbers(<usize>from + n), v128.load(centre + (n << 2)));
        const b = f32x4.sub(numbers(<usize>from + n + 4), v128.load(centre + (n << 2), 16));
        first = f32x4.add(first, f32x4.mul(a, a));
        second = f32x4.add(second, f32x4.mul(b, b));
      }
      away = Mathf.sqrt(sumOf(first, second));
    }
    store<f32>(result + (item << 2), away);
  }
}

/**
 * For each of such features the distance of the nearest of `classes` centres (at least two) but its own less that of its
 * own. `wide`: room for 128 single precision numbers.
 */
export function fartherThanOwn(
  places: usize,
  count: i32,
  own: usize,
  centres: usize,
  classes: i32,
  result: usize,
  wide: usize,
): void {
  for (let item: usize = 0; item < <usize>count; item++) {
    const from = load<i32>(places + (item << 2));
    const ownClass = load<i32>(own + (item << 2));
    if (from < 0 || ownClass < 0) {
      store<f32>(result + (item << 2), f32.NaN);
      continue;
    }
    for (let n: usize = 0; n < featureBytes; n += 4) v128.store(wide + (n << 2), numbers(<usize>from + n));
    let toOwn: f32 = 0;
    let toOther: f32 = f32.MAX_VALUE;
    for (let index = 0; index < classes; index++) {
      const centre = centres + <usize>index * featureBytes * 4;
      let first = f32x4.splat(0);
      let second = f32x4.splat(0);
      for (let n: usize = 0; n < featureBytes * 4; n += 32) {
        const a = f32x4.sub(v128.load(wide + n), v128.load(centre + n));
        const b = f32x4.sub(v128.load(wide + n, 16), v128.load(centre + n, 16));
        first = f32x4.add(first, f32x4.mul(a, a));
        second = f32x4.add(second, f32x4.mul(b, b));
      }
      const away = sumOf(first, second);
      if (index == ownClass) toOwn = away;
      else if (away < toOther) toOther = away;
    }
    store<f32>(result + (item << 2), Mathf.sqrt(toOther) - Mathf.sqrt(toOwn));
  }
}

/** For each of such features its distance from the nearest of those that begin at `wanted`; NaN where it has none. */
export function fromNearest(places: usize, count: i32, wanted: usize, wantedCount: i32, result: usize): void {
  for (let item: usize = 0; item < <usize>count; item++) {
    const from = load<i32>(places + (item << 2));
    let nearest = i32.MAX_VALUE;
    if (from >= 0)
      for (let n: usize = 0; n < <usize>wantedCount; n++) {
        const away = distance(<usize>from, <usize>load<i32>(wanted + (n << 2)), nearest);
        if (away < nearest) nearest = away;
      }
    store<f32>(result + (item << 2), nearest == i32.MAX_VALUE ? f32.NaN : Mathf.sqrt(<f32>nearest));
  }
}

/**
 * Adds each of such features to the 128 sums of its class, whole numbers one after the other for each class, or with
 * `isTaken` takes it away from them.
 */
export function addUp(places: usize, count: i32, own: usize, sums: usize, isTaken: i32): void {
  for (let item: usize = 0; item < <usize>count; item++) {
    const from = load<i32>(places + (item << 2));
    const ownClass = load<i32>(own + (item << 2));
    if (from < 0 || ownClass < 0) continue;
    const to = sums + <usize>ownClass * featureBytes * 4;
    if (isTaken)
      for (let n: usize = 0; n < featureBytes; n += 4)
        v128.store(to + (n << 2), i32x4.sub(v128.load(to + (n << 2)), wholes(<usize>from + n)));
    else
      for (let n: usize = 0; n < featureBytes; n += 4)
        v128.store(to + (n << 2), i32x4.add(v128.load(to + (n << 2)), wholes(<usize>from + n)));
  }
}

export { reserve } from "./reserve";
