/** What the objects of a snapshot measure: as it is kept, and worked out of that, once for as long as the snapshot lives. */
import { Column } from "../columns/column";
import type { ObjectField } from "../selection/fields";
import type { Snapshot } from "./snapshot";

/** Measures that are worked out: of the box, and of where it lies in its image. */
type WorkedOut = "share" | "ratio" | "x" | "y";
type Values = Column<Float64Array>;

/** Makes room for all objects; what no image has measures nothing. Returns the first that is not measured yet. */
function extend(values: Values, length: number): number {
  const known = values.length;
  if (known < length) {
    const more = new Float64Array(length - known).fill(Number.NaN);
    values.pushAll(more, more.length);
  }
  return known;
}

/** Where the middle of each object lies along one side of its image (0…1), for the objects from `from` on. */
function measureMiddles(
  snapshot: Snapshot,
  from: number,
  values: Float64Array,
  { starts, lengths, sides }: { starts: Float32Array; lengths: Float32Array; sides: Uint32Array },
): void {
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  for (let slot = 0; slot < firsts.length; slot++) {
    const [first, side] = [firsts[slot] as number, sides[slot] as number];
    if (first < from || side === 0) continue;
    const end = first + (counts[slot] as number);
    for (let at = first; at < end; at++) values[at] = ((starts[at] as number) + (lengths[at] as number) / 2) / side;
  }
}

/** The share that each object takes of its image, for the objects from `from` on. */
function measureShares(snapshot: Snapshot, from: number, values: Float64Array): void {
  const areas = snapshot.area.values;
  const [firsts, counts] = [snapshot.firstObject.used, snapshot.objectCount.used];
  const [widths, heights] = [snapshot.width.used, snapshot.height.used];
  for (let slot = 0; slot < firsts.length; slot++) {
    const first = firsts[slot] as number;
    const whole = (widths[slot] as number) * (heights[slot] as number);
    if (first < from || whole === 0) continue;
    const end = first + (counts[slot] as number);
    for (let at = first; at < end; at++) values[at] = (areas[at] as number) / whole;
  }
}

function measureRatios(snapshot: Snapshot, from: number, values: Float64Array): void {
  const [widths, heights] = [snapshot.boxWidth.used, snapshot.boxHeight.used];
  for (let at = from; at < widths.length; at++) {
    const height = heights[at] as number;
    values[at] = height > 0 ? (widths[at] as number) / height : Number.NaN;
  }
}

function measure(snapshot: Snapshot, field: WorkedOut, from: number, values: Float64Array): void {
  const { x, y, boxWidth, boxHeight, width, height } = snapshot;
  switch (field) {
    case "share":
      return measureShares(snapshot, from, values);
    case "ratio":
      return measureRatios(snapshot, from, values);
    case "x":
      return measureMiddles(snapshot, from, values, {
        starts: x.values,
        lengths: boxWidth.values,
        sides: width.values,
      });
    case "y":
      return measureMiddles(snapshot, from, values, {
        starts: y.values,
        lengths: boxHeight.values,
        sides: height.values,
      });
  }
}

const measuresOf = new WeakMap<Snapshot, Map<WorkedOut, Values>>();

/** An object's measures never change: an image whose labels or size do gets other objects, behind all there are. */
function workedOut(snapshot: Snapshot, field: WorkedOut): Float64Array {
  const known = measuresOf.get(snapshot) ?? new Map<WorkedOut, Values>();
  measuresOf.set(snapshot, known);
  const values = known.get(field) ?? new Column(Float64Array, snapshot.objectClass.length);
  known.set(field, values);
  const from = extend(values, snapshot.objectClass.length);
  if (from < values.length) measure(snapshot, field, from, values.values);
  return values.used;
}

/** What is kept of measures that were worked out, in bytes. */
export const measuredBytes = (snapshot: Snapshot): number =>
  [...(measuresOf.get(snapshot)?.values() ?? [])].reduce((sum, values) => sum + values.bytes, 0);

/**
 * What objects measure, by their places: pixels, square pixels, shares and ratios; NaN where it is unset. Null where a
 * field is no measure. What lies at places that no image has any more means nothing.
 */
export function objectMeasures(snapshot: Snapshot, field: ObjectField): Float32Array | Float64Array | null {
  switch (field) {
    case "width":
      return snapshot.boxWidth.used;
    case "height":
      return snapshot.boxHeight.used;
    case "area":
      return snapshot.area.used;
    case "confidence":
      return snapshot.confidence.used;
    case "share":
    case "ratio":
    case "x":
    case "y":
      return workedOut(snapshot, field);
    default:
      return null;
  }
}
