/**
 * Which picture a source's labels were made on. Most are made on the upright one at its full size; some on the pixels as
 * the camera stored them, before its rotation flag (EXIF 2.3, tag 0x0112) was applied, and some on a scaled copy.
 */
import { affine, compose, identity, mapShape, scaleShape, scaling, type Matrix } from "../geometry/transform";
import type { Item, LabeledObject, Size } from "../model/item";
import type { OptionDeclaration, Options } from "./format";

/** What is done with labels that were made on another picture: `labels` moves them, `keep` leaves them, else it is said. */
export type FrameChoice = { turn?: "labels" | "keep"; scale?: "labels" | "keep" };

const described = {
  turn: "whether labels made on the camera's unturned pixels are turned upright with the picture, or kept as they are",
  scale: "whether labels made on another scale of the picture are scaled to it, or kept as they are",
};

/** Every reader of shapes takes these; without them such labels are an error, and stay as they are. */
export const frameOptions: readonly OptionDeclaration[] = (["turn", "scale"] as const).map((name) => ({
  name,
  values: ["labels", "keep"],
  default: "an error says so",
  describes: described[name],
  example: `${name}=labels`,
  when: "reading",
}));

export function frameChoice(options: Options): FrameChoice {
  const { turn, scale } = options;
  const asked = (value: string | undefined): "labels" | "keep" | undefined =>
    value === "labels" || value === "keep" ? value : undefined;
  const choice: FrameChoice = {};
  const [turned, scaled] = [asked(turn), asked(scale)];
  if (turned) choice.turn = turned;
  if (scaled) choice.scale = scaled;
  return choice;
}

type Facts = Size & { orientation: number };

/** The size of the pixels as the file stores them. */
function rawSize({ width, height, orientation }: Facts): Size {
  return orientation >= 5 ? { width: height, height: width } : { width, height };
}

/** The map from the pixels as they are stored to the upright picture's, by orientation 1 … 8; `size` is the stored one. */
export function uprightMatrix(orientation: number, { width, height }: Size): Matrix {
  const matrices: Matrix[] = [
    identity,
    affine(-1, 0, 0, 1, width, 0),
    affine(-1, 0, 0, -1, width, height),
    affine(1, 0, 0, -1, 0, height),
    affine(0, 1, 1, 0, 0, 0),
    affine(0, 1, -1, 0, height, 0),
    affine(0, -1, -1, 0, height, width),
    affine(0, -1, 1, 0, 0, width),
  ];
  return matrices[orientation - 1] ?? identity;
}

/** Sizes that differ by less are a mistake about the size, not another scale of the picture. */
const leastScale = 0.02;

function isScaled(declared: Size, { width, height }: Size): boolean {
  const factor = declared.width / width;
  // The smaller picture's sides were rounded to whole pixels.
  const rounding = Math.max(1, factor);
  return (
    Math.abs(factor - 1) > leastScale &&
    Math.abs(declared.height - factor * height) <= rounding &&
    declared.width > 0 &&
    declared.height > 0
  );
}

/** How the size that labels name differs from their picture's: its sides swapped by the camera's flag, or its scale. */
export function frameTrouble(declared: Size, facts: Facts): "turned" | "scaled" | null {
  if (declared.width === facts.width && declared.height === facts.height) return null;
  const raw = rawSize(facts);
  if (facts.orientation >= 5 && declared.width === raw.width && declared.height === raw.height) return "turned";
  return isScaled(declared, facts) ? "scaled" : null;
}

/** The map that brings an item's labels to the upright picture, where that was chosen; null where they stay. */
function matrixFor(item: Item, facts: Facts, choice: FrameChoice): { matrix: Matrix; from: Size } | null {
  const { declared } = item;
  const raw = rawSize(facts);
  const isRaw = !declared || (declared.width === raw.width && declared.height === raw.height);
  if (choice.turn === "labels" && facts.orientation > 1 && isRaw)
    return { matrix: uprightMatrix(facts.orientation, raw), from: raw };
  if (choice.scale === "labels" && item.units === "pixels" && declared && frameTrouble(declared, facts) === "scaled")
    return { matrix: scaling(facts.width / declared.width, facts.height / declared.height), from: declared };
  return null;
}

/** The item with its labels in pixels of the upright picture, where they were made on another and that was chosen. */
export function movedToFrame(item: Item, facts: Facts, choice: FrameChoice): Item {
  if (item.objects.length === 0) return item;
  const map = matrixFor(item, facts, choice);
  if (!map) return item;
  const size = { width: facts.width, height: facts.height };
  const objects = item.objects.map((object): LabeledObject => {
    const { givenArea: _, ...rest } = object;
    const { shape } = object;
    const pixels = item.units === "relative" ? scaleShape(shape, map.from.width, map.from.height) : shape;
    // A mask has a size of its own, which need not be the one that was named.
    const matrix =
      pixels.kind === "mask" && (pixels.width !== map.from.width || pixels.height !== map.from.height)
        ? compose(scaling(map.from.width / pixels.width, map.from.height / pixels.height), map.matrix)
        : map.matrix;
    return { ...rest, shape: mapShape(pixels, matrix, size) };
  });
  return { ...item, units: "pixels", declared: size, objects };
}
