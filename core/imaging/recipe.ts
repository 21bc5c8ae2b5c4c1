/** How one output's pixels are made, as data: sources and maps, then what is done to tones and pixels, all drawn. */
import { z } from "zod";
import { isIdentity, type Matrix } from "../geometry/transform";
import type { Size } from "../model/item";
import { boxSchema, type Box } from "../model/shape";
import type { Plan } from "../plans/plan";
import type { Frame } from "./frames";

const number = z.number();
const matrixSchema = z.tuple([number, number, number, number, number, number, number, number, number]);
const sizeSchema = z.object({ width: z.number().int().positive(), height: z.number().int().positive() });
const hashSchema = z.string().regex(/^[0-9a-f]{64}$/);

/**
 * A source on the frame: `region` are whole pixels of its upright picture, of which nothing beyond is seen; `matrix` goes
 * from the upright picture to the frame; it fills `window`, in pixels of the frame, or all of it.
 */
const partSchema = z.object({
  source: hashSchema,
  orientation: z.number().int().min(1).max(8),
  size: sizeSchema,
  region: boxSchema,
  matrix: matrixSchema,
  window: boxSchema.optional(),
});
export type RecipePart = z.infer<typeof partSchema>;

/** An object of another image, cut out along its outline (upright pixels) and mapped onto the output. */
const pastedSchema = z.object({
  source: hashSchema,
  orientation: z.number().int().min(1).max(8),
  size: sizeSchema,
  outline: z.array(z.array(z.array(number))),
  matrix: matrixSchema,
});
export type Pasted = z.infer<typeof pastedSchema>;

const effectSchema = z.object({
  op: z.string(),
  values: z.record(z.string(), z.unknown()),
  seed: z.number().int().optional(),
  places: z.array(boxSchema).optional(),
  pasted: z.array(pastedSchema).optional(),
});
export type DrawnEffect = z.infer<typeof effectSchema>;

export const recipeSchema = z.object({
  parts: z.array(partSchema).min(1),
  /** From the frame of `frame` pixels to the output of `size`. */
  frame: sizeSchema,
  warp: matrixSchema,
  size: sizeSchema,
  /** What is shown beyond the parts: edge, mirror or a colour. */
  outside: z.string(),
  grey: z.boolean(),
  contrast: z.enum(["none", "stretch", "equalize", "adaptive"]),
  effects: z.array(effectSchema),
});
export type Recipe = z.infer<typeof recipeSchema>;

/** Twelve digits: beyond them machines may differ in how they round sines and roots. */
export function fixed(value: number): number {
  return Number(value.toPrecision(12));
}

export function fixedMatrix(matrix: Matrix): z.infer<typeof matrixSchema> {
  return matrix.map(fixed) as z.infer<typeof matrixSchema>;
}

/** The recipe of a frame as it is prepared, without any augmentation. */
export function preparedRecipe(
  image: { key: string; size: Size; orientation: number },
  frame: Frame,
  prepare: Plan["prepare"],
): Recipe {
  return {
    parts: [
      {
        source: image.key,
        orientation: image.orientation,
        size: image.size,
        region: frame.region,
        matrix: fixedMatrix(frame.matrix),
      },
    ],
    frame: frame.size,
    warp: [1, 0, 0, 0, 1, 0, 0, 0, 1],
    size: frame.size,
    outside: prepare.outside,
    grey: prepare.tone.grey,
    contrast: prepare.tone.contrast,
    effects: [],
  };
}

const isWhole = (region: Box, { width, height }: Size) =>
  region.x === 0 && region.y === 0 && region.width === width && region.height === height;

/** True where the original's pixels go out as they are, the camera's turning set aside. */
export function leavesPixels({ parts, frame, warp, size, grey, contrast, effects }: Recipe): boolean {
  const [part, ...others] = parts;
  return (
    part !== undefined &&
    others.length === 0 &&
    isWhole(part.region, part.size) &&
    isIdentity(part.matrix) &&
    isIdentity(warp) &&
    frame.width === part.size.width &&
    frame.height === part.size.height &&
    size.width === frame.width &&
    size.height === frame.height &&
    !grey &&
    contrast === "none" &&
    effects.length === 0
  );
}

/** True where the original bytes can go out as they are. */
export function leavesBytes(recipe: Recipe): boolean {
  return leavesPixels(recipe) && recipe.parts[0]?.orientation === 1;
}

/** The hashes of the images that a recipe reads, the output's own first, each once. */
export function sourcesOf({ parts, effects }: Recipe): string[] {
  return [
    ...new Set([
      ...parts.map(({ source }) => source),
      ...effects.flatMap(({ pasted = [] }) => pasted.map(({ source }) => source)),
    ]),
  ];
}
