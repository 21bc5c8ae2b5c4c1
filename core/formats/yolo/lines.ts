/** One line of a label file, in each of the four dialects. Coordinates are shares of the image's size. */
import { rotatedBoxCorners, shapeBounds } from "../../geometry/shape";
import type { ClassInfo, LabeledObject, Size } from "../../model/item";
import type { Keypoint, Shape } from "../../model/shape";
import { plainDecimals } from "../decimals";
import type { LabelText } from "./label-text";

export type Dialect = "yolo" | "yolo-seg" | "yolo-pose" | "yolo-obb";

/** Points an object and numbers a point (2, or 3 with visibility). */
export type KeypointShape = { points: number; dimensions: 2 | 3 };

export type ParsedLine = { classNumber: number; shape: Shape; confidence?: number };

function boxShape([cx, cy, width, height]: readonly number[]): Extract<Shape, { kind: "box" }> {
  return {
    kind: "box",
    x: (cx as number) - (width as number) / 2,
    y: (cy as number) - (height as number) / 2,
    width: width as number,
    height: height as number,
  };
}

function poseShape(rest: readonly number[], { points, dimensions }: KeypointShape): Shape | null {
  if (rest.length !== 4 + points * dimensions) return null;
  const keypoints: Keypoint[] = [];
  for (let at = 4; at < rest.length; at += dimensions) {
    const [x, y] = [rest[at] as number, rest[at + 1] as number];
    const v = dimensions === 3 ? Math.round(rest[at + 2] as number) : x === 0 && y === 0 ? 0 : 2;
    keypoints.push(v <= 0 ? { x: 0, y: 0, v: 0 } : { x, y, v: v >= 2 ? 2 : 1 });
  }
  const { kind: _, ...box } = boxShape(rest);
  return keypoints.some((point) => point.v > 0)
    ? { kind: "keypoints", points: keypoints, box }
    : { kind: "box", ...box };
}

/** What follows the class number, as a shape; null where the dialect has no such line. */
function shapeOf(
  rest: readonly number[],
  dialect: Dialect,
  keypoints: KeypointShape | null,
): { shape: Shape; confidence?: number } | null {
  if (dialect === "yolo-pose" && keypoints) {
    const shape = poseShape(rest, keypoints);
    if (shape) return { shape };
  }
  if (rest.length === 4) return { shape: boxShape(rest) };
  if (rest.length === 5) return { shape: boxShape(rest), confidence: rest[4] as number };
  if (dialect === "yolo-obb" && rest.length === 9)
    return { shape: { kind: "polygon", parts: [[rest.slice(0, 8)]] }, confidence: rest[8] as number };
  if (rest.length >= 6 && rest.length % 2 === 0) return { shape: { kind: "polygon", parts: [[[...rest]]] } };
  return null;
}

/** A line's numbers; null where it does not begin with a class number or holds something else. */
export function numbersOf(line: string): number[] | null {
  const numbers = plainDecimals(line) ?? line.trim().split(/\s+/).map(Number);
  const [first] = numbers;
  return first !== undefined && Number.isInteger(first) && first >= 0 && numbers.length > 1 ? numbers : null;
}

/** Reads a line; null where it is none of its dialect. Numbers that are none become NaN, which settling drops. */
export function parseLine(
  line: string,
  dialect: Dialect = "yolo",
  keypoints: KeypointShape | null = null,
): ParsedLine | null {
  const numbers = numbersOf(line);
  if (!numbers) return null;
  const [classNumber, ...rest] = numbers as [number, ...number[]];
  const found = shapeOf(rest, dialect, keypoints);
  return found && { classNumber, ...found };
}

/**
 * The keypoint shape that fits lines of this many columns where no description gives one: with visibility if that
 * divides and holds 0, 1 or 2.
 */
export function guessKeypointShape(lines: readonly (readonly number[])[]): KeypointShape | null {
  const columns = Math.max(0, ...lines.map((numbers) => numbers.length)) - 5;
  if (columns < 2) return null;
  const whole = lines.filter((numbers) => numbers.length === columns + 5);
  if (
    columns % 3 === 0 &&
    whole.every((numbers) =>
      numbers.slice(5).every((value, i) => i % 3 !== 2 || value === 0 || value === 1 || value === 2),
    )
  )
    return { points: columns / 3, dimensions: 3 };
  return columns % 2 === 0 ? { points: columns / 2, dimensions: 2 } : null;
}

function writeShares(text: LabelText, points: readonly number[], size: Size): void {
  for (let i = 0; i < points.length; i++) text.share((points[i] as number) / (i % 2 === 0 ? size.width : size.height));
}

/** Writes a line with its numbers as shares of the image's size; nothing where the dialect cannot say the object. */
export function writeLine(
  text: LabelText,
  { shape }: LabeledObject,
  classNumber: number,
  dialect: Dialect,
  size: Size,
  points: number,
): void {
  const corners =
    dialect === "yolo-obb"
      ? shape.kind === "rotated-box"
        ? rotatedBoxCorners(shape)
        : null
      : dialect === "yolo-seg" && shape.kind === "polygon"
        ? (shape.parts[0]?.[0] ?? [])
        : undefined;
  const box = corners === undefined ? shapeBounds(shape) : null;
  if (!box && !corners) return;
  text.begin(classNumber);
  if (corners) writeShares(text, corners, size);
  if (box) {
    text.share((box.x + box.width / 2) / size.width);
    text.share((box.y + box.height / 2) / size.height);
    text.share(box.width / size.width);
    text.share(box.height / size.height);
    if (dialect === "yolo-pose") writePoints(text, shape.kind === "keypoints" ? shape.points : [], size, points);
  }
  text.endLine();
}

/** As many points as every line has; what an object lacks is not labeled. */
function writePoints(text: LabelText, keypoints: readonly Keypoint[], size: Size, points: number): void {
  for (let n = 0; n < points; n++) {
    const { x, y, v } = keypoints[n] ?? { x: 0, y: 0, v: 0 };
    writeShares(text, [x, y], size);
    text.plain(v);
  }
}

/** Keypoints an object of these classes can have at most. */
export function mostKeypoints(classes: readonly ClassInfo[]): number {
  return Math.max(0, ...classes.map((info) => info.keypoints?.length ?? 0));
}
