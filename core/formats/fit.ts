/**
 * The ladder of shapes: mask → polygon → rotated box → box → image-level class. An item is brought down to what a
 * format carries, and every rung it loses is reported. It never goes up by guessing; option `corners=polygon` asks for
 * four-point polygons in place of boxes.
 */
import { minimumAreaBox } from "../geometry/minimum-area-box";
import { joinParts } from "../geometry/join-parts";
import { polygonToMask } from "../geometry/rasterise";
import { rotatedBoxCorners, shapeBounds } from "../geometry/shape";
import { traceMask } from "../geometry/trace";
import type { Findings } from "../model/finding";
import {
  carriesLabels,
  objectFlags,
  type AttributeValue,
  type Item,
  type LabeledObject,
  type Size,
} from "../model/item";
import type { Part, Shape } from "../model/shape";
import type { Carries, Format, OptionDeclaration, Options, SizedItem } from "./format";

/** Declared by the formats that write polygons beside boxes. */
export const cornersOption: OptionDeclaration = {
  name: "corners",
  values: ["box", "polygon"],
  default: "box",
  describes: "whether boxes and rotated boxes stay boxes or are written as four-point polygons",
  example: "corners=polygon",
  when: "writing",
};

/** Declared by the formats that write polygons and no boxes. */
export const boxCornersOption: OptionDeclaration = {
  name: "corners",
  values: ["polygon", "box"],
  default: "polygon",
  describes: "whether boxes and rotated boxes are written as outlines of their four corners, or left out",
  example: "corners=box",
  when: "writing",
};

type LossCode = "loss-polygon" | "loss-mask" | "loss-keypoints" | "loss-rotation" | "loss-object";

function isHoled(parts: readonly Part[]): boolean {
  return parts.some((part) => part.length > 1);
}

function boxOf(shape: Shape): Shape | null {
  const bounds = shapeBounds(shape);
  return bounds && bounds.width > 0 && bounds.height > 0 ? { kind: "box", ...bounds } : null;
}

/** The rotated box of least area around a polygon or a mask's outline. */
function rotatedOf(points: readonly number[]): Shape | null {
  const box = minimumAreaBox(points);
  return box && box.width > 0 && box.height > 0 ? box : null;
}

/** The pixels whose centres lie inside; null where an outline is so thin that there is none. */
function maskOf(parts: Part[], size: Size): Shape | null {
  const counts = polygonToMask(parts, size.width, size.height);
  return counts.length > 1 ? { kind: "mask", ...size, counts } : null;
}

function fitPolygon(
  parts: Part[],
  carries: Carries,
  size: Size,
  wasMask: boolean,
): { shape: Shape; loss: LossCode | null } | null {
  const holed = isHoled(parts);
  if (carries.shapes.includes("polygon")) {
    const mask = holed && carries.holes === "mask" ? maskOf(parts, size) : null;
    if (mask) return { shape: mask, loss: null };
    const filled = holed && carries.holes !== "kept";
    const whole = filled ? parts.map((part) => part.slice(0, 1)) : parts;
    const joined = carries.parts === "joined" && whole.length > 1 ? [joinParts(whole)] : whole;
    return { shape: { kind: "polygon", parts: joined }, loss: wasMask || filled ? "loss-mask" : null };
  }
  const mask = carries.shapes.includes("mask") ? maskOf(parts, size) : null;
  if (mask) return { shape: mask, loss: null };
  const loss = wasMask || holed ? "loss-mask" : "loss-polygon";
  const lower = carries.shapes.includes("rotated-box")
    ? rotatedOf(parts.flatMap((part) => part[0] ?? []))
    : carries.shapes.includes("box")
      ? boxOf({ kind: "polygon", parts })
      : null;
  return lower ? { shape: lower, loss } : null;
}

/** The highest rung at or below `shape` that the format carries, and the loss that is; null where there is none. */
export function fitShape(shape: Shape, carries: Carries, size: Size): { shape: Shape; loss: LossCode | null } | null {
  const { shapes } = carries;
  switch (shape.kind) {
    case "box":
      return shapes.includes("box") ? { shape, loss: null } : null;
    case "rotated-box": {
      if (shapes.includes("rotated-box")) return { shape, loss: null };
      const box = shapes.includes("box") ? boxOf(shape) : null;
      return box && { shape: box, loss: "loss-rotation" };
    }
    case "polygon":
      return fitPolygon(shape.parts, carries, size, false);
    case "mask":
      return shapes.includes("mask")
        ? { shape, loss: null }
        : fitPolygon(traceMask(shape.counts, shape.width, shape.height), carries, size, true);
    case "keypoints": {
      const placed = shape.points.some((point) => point.v > 0);
      if (shapes.includes("keypoints") && placed) return { shape, loss: null };
      // A skeleton of which no point has a place says no more than its box, and is read as that.
      const box = shapes.includes("box") ? boxOf(shape) : null;
      return box && { shape: box, loss: placed ? "loss-keypoints" : null };
    }
    case "line":
      return shapes.includes("line") ? { shape, loss: null } : null;
  }
}

/** What boxes are in this format: as they are, outlines of their corners because that was asked for, or by default. */
type Corners = "box" | "asked" | "default";

function cornersOf(format: Format, options: Options): Corners {
  const asked = options["corners"];
  const declared = format.options.find(({ name }) => name === "corners")?.default;
  return (asked ?? declared) !== "polygon" ? "box" : asked === undefined ? "default" : "asked";
}

function cornersAsPolygon(shape: Shape): Shape {
  if (shape.kind === "rotated-box") return { kind: "polygon", parts: [[rotatedBoxCorners(shape)]] };
  if (shape.kind !== "box") return shape;
  const { x, y, width, height } = shape;
  return { kind: "polygon", parts: [[[x, y, x + width, y, x + width, y + height, x, y + height]]] };
}

/** As fitShape; boxes, and what would become one, are outlines of their corners where `corners` says so. */
function fitWithCorners(
  shape: Shape,
  carries: Carries,
  size: Size,
  corners: Corners,
): { shape: Shape; loss: LossCode | null } | null {
  if (corners === "box" || !(carries.shapes.includes("polygon") || carries.shapes.includes("mask")))
    return fitShape(shape, carries, size);
  const fitted = fitShape(cornersAsPolygon(shape), carries, size);
  if (fitted || carries.shapes.includes("box")) return fitted;
  // A skeleton of a format without boxes is still told by the corners of the box around it.
  const lower = fitShape(shape, { ...carries, shapes: [...carries.shapes, "box"] }, size);
  return lower && { shape: cornersAsPolygon(lower.shape), loss: lower.loss };
}

function fitObject(
  object: LabeledObject,
  item: SizedItem,
  carries: Carries,
  corners: Corners,
  report: Findings,
): LabeledObject | null {
  const fitted = fitWithCorners(object.shape, carries, item.size, corners);
  if (!fitted) {
    report.add("loss-object", item.path, `${object.class}, a ${object.shape.kind}`);
    return null;
  }
  if (fitted.loss) report.add(fitted.loss, item.path, object.class);
  else if (corners === "default" && (object.shape.kind === "box" || object.shape.kind === "rotated-box"))
    report.add("box-as-corners", item.path, object.class);
  const kept: LabeledObject = { class: object.class, shape: fitted.shape };
  let lost = false;
  for (const flag of objectFlags) {
    const value = object[flag];
    if (value === undefined || value === false) continue;
    if (carries.flags.includes(flag)) Object.assign(kept, { [flag]: value });
    else lost = true;
  }
  if (object.attributes) {
    const attributes = Object.entries(object.attributes);
    const carried = attributes.filter(
      ([name]) => carries.attributes === true || (carries.attributes !== false && carries.attributes.includes(name)),
    );
    if (carried.length > 0) kept.attributes = Object.fromEntries(carried);
    lost ||= carried.length < attributes.length;
  }
  if (carries.area && object.givenArea !== undefined) kept.givenArea = object.givenArea;
  if (lost) report.add("loss-attributes", item.path, object.class);
  return kept;
}

/** Image-level classes, the item's own or what its objects become where the format knows no object. */
function fitClasses(item: SizedItem, carries: Carries, report: Findings): string[] {
  const names =
    item.classes.length > 0 || carries.shapes.length > 0
      ? item.classes
      : [...new Set(item.objects.map((object) => object.class))];
  if (names.length === 0) return names;
  if (carries.imageClasses === "none") {
    report.add("loss-image-class", item.path, names.join(", "));
    return [];
  }
  if (carries.imageClasses === "one" && names.length > 1) {
    report.add("loss-image-class", item.path, `has ${names.length} classes; the first is kept`);
    return names.slice(0, 1);
  }
  return names;
}

/**
 * The item as `format` can say it; null where the image has to be left out. Everything that is lost on the way is
 * added to `report`; nothing is written, so the same call makes the loss report before a package is packed.
 */
export function fitItem(item: SizedItem, format: Format, options: Options, report: Findings): SizedItem | null {
  const carries = format.carriesWith?.(options) ?? format.carries;
  const fitted: SizedItem = { ...item };
  if (item.split === null && !carries.noSplit) {
    report.add("loss-split", item.path);
    fitted.split = "train";
  }
  fitted.classes = fitClasses(item, carries, report);
  const captions =
    carries.captions === "none" ? [] : carries.captions === "one" ? item.captions.slice(0, 1) : item.captions;
  const fields = carries.fields ? item.fields : {};
  if (captions.length < item.captions.length || Object.keys(fields).length < Object.keys(item.fields).length)
    report.add("loss-caption", item.path);
  fitted.captions = captions;
  fitted.fields = fields;
  if (!carries.licence) delete fitted.licence;
  fitted.objects = [];
  const corners = cornersOf(format, options);
  for (const object of item.objects) {
    const kept = fitObject(object, item, carries, corners, report);
    if (kept) fitted.objects.push(kept);
  }
  const refitted = format.refit ? format.refit(fitted, options, report, item) : fitted;
  if (!refitted) return null;
  refitted.state = stateAfter(refitted, item, carries, report);
  return refitted;
}

/** An image whose labels were all lost was never said to hold nothing, so it goes out unlabeled. */
function stateAfter(fitted: SizedItem, item: Item, carries: Carries, report: Findings): Item["state"] {
  if (carriesLabels(fitted)) return "labeled";
  if (item.state !== "empty") return "unlabeled";
  if (carries.empty) return "empty";
  report.add("loss-state", item.path);
  return "unlabeled";
}

/**
 * The item with only those attributes whose values the format can write; the others are reported. For a format's
 * `refit`.
 */
export function keepAttributes(
  item: SizedItem,
  keeps: (name: string, value: AttributeValue) => boolean,
  report: Findings,
): SizedItem {
  const objects = item.objects.map((object) => {
    const { attributes, ...rest } = object;
    const entries = Object.entries(attributes ?? {});
    const kept = entries.filter(([name, value]) => keeps(name, value));
    if (kept.length === entries.length) return object;
    report.add("loss-attributes", item.path, object.class);
    return kept.length > 0 ? { ...rest, attributes: Object.fromEntries(kept) } : rest;
  });
  return { ...item, objects };
}
