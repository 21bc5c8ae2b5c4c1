/** Manifests of the first number: one source an output, resized and mirrored. They are read for good. */
import { z } from "zod";
import type { Recipe } from "../imaging/recipe";
import { labeledObjectSchema, labelStates, licenceSchema, splitSchema, type Size } from "../model/item";
import { manifestClassSchema } from "./manifest-class";

const sizeSchema = z.object({ width: z.number().int().positive(), height: z.number().int().positive() });

export const firstHeaderSchema = z.object({
  larder: z.literal("manifest 1"),
  classes: z.array(manifestClassSchema),
});

const transformSchema = z.object({
  orientation: z.number().int().min(1).max(8),
  resize: sizeSchema.nullable(),
  flipSideways: z.boolean(),
});
export type FirstTransform = z.infer<typeof transformSchema>;

export const firstLineSchema = z.object({
  source: z.string().regex(/^[0-9a-f]{64}$/),
  copy: z.number().int().nonnegative(),
  name: z.string(),
  split: splitSchema,
  state: z.enum(labelStates),
  size: sizeSchema,
  transform: transformSchema,
  objects: z.array(labeledObjectSchema),
  classes: z.array(z.string()),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  licence: licenceSchema.optional(),
});

/**
 * The recipe of a first line. The source's size is not written there: where it was resized the renderings of that time
 * are kept, and where it was not it is the output's.
 */
export function recipeOfFirst(source: string, { orientation, flipSideways }: FirstTransform, size: Size): Recipe {
  return {
    parts: [{ source, orientation, size, region: { x: 0, y: 0, ...size }, matrix: [1, 0, 0, 0, 1, 0, 0, 0, 1] }],
    frame: size,
    warp: flipSideways ? [-1, 0, size.width, 0, 1, 0, 0, 0, 1] : [1, 0, 0, 0, 1, 0, 0, 0, 1],
    size,
    outside: "edge",
    grey: false,
    contrast: "none",
    effects: [],
  };
}
