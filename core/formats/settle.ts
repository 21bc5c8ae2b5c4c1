/**
 * Settling: what a reader said meets what the file is. Shapes become pixels of the upright image, clipped and whole.
 */
import { minimumAreaBox, rotatedBoxFromCorners } from "../geometry/minimum-area-box";
import { clipShape, isDegenerate, reachesOutside, shapeBounds } from "../geometry/shape";
import { scaleShape } from "../geometry/transform";
import { frameTrouble, movedToFrame, type FrameChoice } from "./label-frame";
import type { Findings } from "../model/finding";
import type { Box, Shape } from "../model/shape";
import { carriesLabels, type Item, type LabeledObject, type Size } from "../model/item";

/** What a file turned out to be: its upright size and the camera's rotation flag (EXIF orientation, 1…8). */
export type ImageFacts = Size & { orientation: number };

/**
 * Finds objects that say the same class and shape again; shapes are compared whole only where their boxes are the
 * same.
 */
class Repeats {
  /** The one object of a box, or what all objects of that box say. */
  private readonly byBox = new Map<number, LabeledObject | Set<string>>();

  /** `box` is the one around the object's shape. */
  has(object: LabeledObject, box: Box | null): boolean {
    // A small integer is found several times as fast as any other number.
    const key = box
      ? (Math.imul(box.x * 16, 7919) ^
          Math.imul(box.y * 16, 104_729) ^
          Math.imul(box.width * 16, 1_299_709) ^
          Math.imul(box.height * 16, 15_485_863)) >>
        2
      : 0;
    const alike = this.byBox.get(key);
    if (!alike) {
      this.byBox.set(key, object);
      return false;
    }
    // A set, so that a hundred thousand objects of one box do not have to be compared with each other.
    const sayings = alike instanceof Set ? alike : new Set([Repeats.text(alike)]);
    this.byBox.set(key, sayings);
    return sayings.size === sayings.add(Repeats.text(object)).size;
  }

  private static text({ class: name, shape }: LabeledObject): string {
    return JSON.stringify([name, shape]);
  }
}

/** How far, in pixels, written corners may be off a rectangle before the least box around them is taken. */
const cornerTolerance = 1;

function asRotatedBox(shape: Extract<Shape, { kind: "polygon" }>, report: Findings, path: string): Shape {
  const corners = shape.parts[0]?.[0] ?? [];
  if (corners.some((value) => !Number.isFinite(value))) return shape;
  const box = rotatedBoxFromCorners(corners, cornerTolerance);
  if (box) return box;
  const around = minimumAreaBox(corners);
  if (around && around.width > 0 && around.height > 0)
    report.add(
      "format-ambiguous",
      path,
      "four corners that are no rectangle; the least rotated box around them is taken, --from yolo-seg keeps them",
    );
  return around ?? shape;
}

function withoutQuadrilaterals({ quadrilaterals: _, ...rest }: Item): Item {
  return rest;
}

/**
 * The item with its labels in pixels of the image whose facts are given. Shapes past the edge are clipped, shapes
 * without area dropped, repeats announced; each with a finding. `choice` says what becomes of labels that were made on
 * the unturned or a scaled picture.
 */
export function settle(given: Item, facts: ImageFacts, report: Findings, choice: FrameChoice = {}): Item {
  const { width, height } = facts;
  const item = movedToFrame(given, facts, choice);
  const trouble = item.declared && item.objects.length > 0 ? frameTrouble(item.declared, facts) : null;
  if (trouble === "turned" && choice.turn === undefined) report.add("labels-turned", item.path);
  // Shares of a picture's size are the same on every scale of it.
  if (trouble === "scaled" && item.units === "pixels" && choice.scale === undefined)
    report.add("labels-scaled", item.path);
  if (item.declared && (item.declared.width !== width || item.declared.height !== height)) {
    report.add(
      "size-mismatch",
      item.path,
      `said ${item.declared.width} × ${item.declared.height}, is ${width} × ${height}`,
    );
  }
  if (facts.orientation > 1) report.add("exif-rotated", item.path);
  const objects: LabeledObject[] = [];
  const seen = new Repeats();
  for (const object of item.objects) {
    const scaled = item.units === "relative" ? scaleShape(object.shape, width, height) : object.shape;
    const shape = item.quadrilaterals && scaled.kind === "polygon" ? asRotatedBox(scaled, report, item.path) : scaled;
    if (isDegenerate(shape)) {
      report.add("shape-degenerate", item.path, object.class);
      continue;
    }
    const box = shapeBounds(shape);
    const within =
      box !== null &&
      (shape.kind === "box" || shape.kind === "polygon") &&
      box.x >= 0 &&
      box.y >= 0 &&
      box.x + box.width <= width &&
      box.y + box.height <= height;
    const outside = !within && reachesOutside(shape, width, height);
    // Rounding past the edge is cut off as well, without a word.
    const clipped = within ? shape : clipShape(shape, width, height);
    if (outside) report.add("box-outside-image", item.path, object.class);
    if (!clipped || (clipped !== shape && isDegenerate(clipped))) {
      report.add("shape-degenerate", item.path, `${object.class}: nothing of it lies inside`);
      continue;
    }
    const settled = clipped === object.shape ? object : { ...object, shape: clipped };
    if (seen.has(settled, clipped === shape ? box : shapeBounds(clipped)))
      report.add("object-duplicate", item.path, object.class);
    objects.push(settled);
  }
  const settled: Item = {
    ...(item.quadrilaterals ? withoutQuadrilaterals(item) : item),
    units: "pixels",
    declared: { width, height },
    objects,
  };
  // An image whose every object had to be dropped was never said to hold nothing.
  settled.state = carriesLabels(settled) ? "labeled" : item.state === "labeled" ? "unlabeled" : item.state;
  if (settled.state === "unlabeled") report.add("image-unlabeled", item.path);
  if (settled.state === "empty") report.add("image-empty", item.path);
  return settled;
}
