/** The hub of every format: one image with what is said about it. */
import { z } from "zod";
import { shapeSchema, type Shape } from "./shape";

export const splitNames = ["train", "val", "test"] as const;
export type Split = (typeof splitNames)[number];
export const splitSchema = z.enum(splitNames);

/** Nobody has said anything / somebody said there is nothing here / it has labels. */
export const labelStates = ["unlabeled", "empty", "labeled"] as const;
export type LabelState = (typeof labelStates)[number];

export type AttributeValue = string | number | boolean | string[];
export const attributeValueSchema = z.union([z.string(), z.number(), z.boolean(), z.array(z.string())]);

export const labeledObjectSchema = z.object({
  class: z.string(),
  shape: shapeSchema,
  attributes: z.record(z.string(), attributeValueSchema).optional(),
  crowd: z.boolean().optional(),
  occluded: z.boolean().optional(),
  truncated: z.boolean().optional(),
  difficult: z.boolean().optional(),
  confidence: z.number().optional(),
  /** The area that came with it, in pixels, where that is not the shape's own. */
  givenArea: z.number().optional(),
});
export type LabeledObject = z.infer<typeof labeledObjectSchema> & { shape: Shape };

export type Size = { width: number; height: number };

/**
 * A class as a source lists it. `pairs` are keypoints, by number from 0, that are each other's left and right; where
 * they are not given the names tell them (keypoint-pairs.ts). `supercategory` and `sourceId` are kept for those formats
 * that have them.
 */
export type ClassInfo = {
  name: string;
  keypoints?: string[];
  skeleton?: [number, number][];
  pairs?: [number, number][];
  supercategory?: string;
  sourceId?: string;
};

/** Under what terms an image may be used, as its source says. */
export const licenceSchema = z.object({ name: z.string(), url: z.string().optional() });
export type Licence = z.infer<typeof licenceSchema>;

/**
 * Where in a container file (a tar, a record file, a table) an image's own bytes lie: byte ranges `[offset, length]`
 * in turn, or a row.
 */
export const insideSchema = z.union([
  z.object({
    file: z.string(),
    pieces: z.array(z.tuple([z.number().int().nonnegative(), z.number().int().nonnegative()])).min(1),
  }),
  z.object({ file: z.string(), row: z.number().int().nonnegative() }),
]);
export type Inside = z.infer<typeof insideSchema>;

/**
 * What a reader yields and a writer takes. `units` is "relative" while coordinates are shares of the
 * image's size (settling turns them into pixels); `declared` is the size the annotation claims.
 */
export type Item = {
  path: string;
  present: boolean;
  inside?: Inside;
  split: Split | null;
  state: LabelState;
  units: "pixels" | "relative";
  /** Polygons of four corners stand for rotated boxes; settling makes them so once they are in pixels. */
  quadrilaterals?: "rotated-box";
  declared?: Size;
  objects: LabeledObject[];
  classes: string[];
  captions: string[];
  fields: Record<string, string | string[]>;
  licence?: Licence;
};

/** An item with everything absent but its path. */
export function blankItem(path: string): Item {
  return {
    path,
    present: true,
    split: null,
    state: "unlabeled",
    units: "pixels",
    objects: [],
    classes: [],
    captions: [],
    fields: {},
  };
}

/** What an object can have said about it beside class, shape and attributes. */
export const objectFlags = ["crowd", "occluded", "truncated", "difficult", "confidence"] as const;
export type ObjectFlag = (typeof objectFlags)[number];

/** True where the item carries an object, an image-level class, a caption or a field. */
export function carriesLabels(item: Pick<Item, "objects" | "classes" | "captions" | "fields">): boolean {
  return (
    item.objects.length > 0 ||
    item.classes.length > 0 ||
    item.captions.length > 0 ||
    Object.keys(item.fields).length > 0
  );
}
