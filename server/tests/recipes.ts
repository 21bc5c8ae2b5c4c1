/** Recipes of single pictures, for tests of what is rendered. */
import { affine, compose, scaling, type Matrix } from "@larder/core/geometry/transform";
import { fixedMatrix, type Recipe } from "@larder/core/imaging/recipe";
import type { Size } from "@larder/core/model/item";
import { Renderer } from "../pixels/render";

export const source = "ab".repeat(32);

/** A picture of an upright size, resized, then warped onto an output. */
export function recipeOf(
  size: Size,
  {
    orientation = 1,
    resize = size,
    warp,
    out = resize,
    ...more
  }: Partial<Omit<Recipe, "warp">> & {
    orientation?: number;
    resize?: Size;
    warp?: Matrix;
    out?: Size;
  } = {},
): Recipe {
  return {
    parts: [
      {
        source,
        orientation,
        size,
        region: { x: 0, y: 0, ...size },
        matrix: fixedMatrix(scaling(resize.width / size.width, resize.height / size.height)),
      },
    ],
    frame: resize,
    warp: fixedMatrix(warp ?? [1, 0, 0, 0, 1, 0, 0, 0, 1]),
    size: out,
    outside: "edge",
    grey: false,
    contrast: "none",
    effects: [],
    ...more,
  };
}

/** A mirror of a frame so wide, after which `next` follows. */
export const flipped = (width: number, next: Matrix = affine(1, 0, 0, 1, 0, 0)): Matrix =>
  compose(affine(-1, 0, 0, 1, width, 0), next);

export function renderOne(bytes: Uint8Array, recipe: Recipe, kind = "png"): Promise<Uint8Array> {
  return new Renderer(() => Promise.resolve(bytes)).render(recipe, kind, 95);
}
