/**
 * The plan: the whole description of a data set, as a screen, a text, a command and the API hand it on. Everything has a
 * default; keys that are not known and values out of range are refused.
 */
import { z } from "zod";
import { isColour } from "../imaging/pixels/colour";
import { labelStates } from "../model/item";
import { parseSelection } from "../selection/parse";
import { SelectionError } from "../selection/selection-error";
import { longestText } from "../selection/tokens";
import { augmentStepsSchema } from "./augmentations";
import { gatesSchema } from "./gates";
import { groupPattern } from "./group-pattern";
import { limited, share, whole } from "./numbers";
import { withoutSavedNames } from "./saved-selections";

const className = z.string().trim().min(1).max(120);
const classNames = z.array(className).max(10_000).default([]);
const count = whole(0, 1e9);

/** A text of the selection language that must parse; what its names mean is found where it is used. */
const selectionText = (wrapped: (text: string) => string) =>
  z
    .string()
    .max(longestText)
    .superRefine((text, context) => {
      try {
        if (text.trim() !== "") parseSelection(wrapped(text));
      } catch (error) {
        if (!(error instanceof SelectionError)) throw error;
        context.addIssue({ code: "custom", message: error.message });
      }
    })
    .default("");

/** Conditions on objects, as they stand in brackets after `has any`. */
export const objectsAsSelection = (conditions: string): string => `has any (${conditions})`;

const selectSchema = z
  .strictObject({
    where: selectionText(withoutSavedNames),
    states: z.array(z.enum(labelStates)).default(["labeled", "empty"]),
    /** A class on fewer images than this leaves with its labels; 0 is off. */
    floor: count.default(0),
    /** An image that holds a named class which has so many already is left out; no class named means every one. */
    cap: z
      .strictObject({ images: whole(1, 1e9), classes: classNames })
      .nullable()
      .default(null),
    /** So many images in all, spread over the classes; 0 is all. */
    sample: count.default(0),
  })
  .prefault({});

export const shapeChoices = ["as-they-are", "boxes", "rotated-boxes", "polygons", "masks", "image-classes"] as const;
export type ShapeChoice = (typeof shapeChoices)[number];

const relabelSchema = z
  .strictObject({
    rename: z.record(z.string(), className).default({}),
    keep: classNames,
    leaveOut: classNames,
    objects: selectionText(objectsAsSelection),
    splitBy: z
      .array(
        z.strictObject({
          attribute: z.string().min(1).max(120),
          classes: classNames,
          name: z.string().min(1).max(120).default("{class}-{value}"),
        }),
      )
      .max(200)
      .default([]),
    join: z
      .array(
        z
          .strictObject({
            classes: z.array(className).min(1).max(1000),
            into: className,
            attribute: z.string().min(1).max(120),
            values: z.array(z.union([z.string(), z.number(), z.boolean()])),
          })
          .refine(({ classes, values }) => classes.length === values.length, {
            message: "As many values as classes are needed: the first class gets the first value.",
            path: ["values"],
          }),
      )
      .max(200)
      .default([]),
    shapes: z.enum(shapeChoices).default("as-they-are"),
    emptied: z.enum(["keep", "leave-out"]).default("keep"),
  })
  .prefault({});

const part = limited({ min: 0, max: 1e6 });
/** Parts of their sum; a split that is not named gets 0. */
export const ratioSchema = z
  .strictObject({ train: part.default(0), val: part.default(0), test: part.default(0) })
  .refine((ratio) => ratio.train + ratio.val + ratio.test > 0, "At least one split needs a share above 0.");

const day = z
  .string()
  .regex(/^\d{4}-\d{2}-\d{2}$/, "A day is written 2026-11-01.")
  .refine((text) => !Number.isNaN(Date.parse(text)), "There is no such day.");

const togetherSchema = z.union([
  z.enum(["near-copies", "delivery", "day", "camera"]),
  z.strictObject({
    name: z.string().superRefine((text, context) => {
      const problem = groupPattern(text);
      if (typeof problem === "string") context.addIssue({ code: "custom", message: problem });
    }),
  }),
  z.strictObject({ attribute: z.string().min(1).max(120) }),
]);
export type Together = z.infer<typeof togetherSchema>;

export const splitModes = ["ratio", "counts", "keep", "folds", "by-date"] as const;

const splitSchema = z
  .strictObject({
    mode: z.enum(splitModes).default("ratio"),
    ratio: ratioSchema.default({ train: 70, val: 20, test: 10 }),
    /** The rest is train. */
    counts: z.strictObject({ val: count.default(0), test: count.default(0) }).prefault({}),
    folds: z.strictObject({ of: whole(2, 100).default(5), this: whole(0, 99).default(0) }).prefault({}),
    /** Images taken from that day on; the rest is train. */
    dates: z.strictObject({ val: day.optional(), test: day.optional() }).prefault({}),
    /** Which splits that images have already stay: only the others are dealt. */
    stand: z.enum(["pinned", "all", "none"]).default("pinned"),
    /** Images that this version holds keep its split. */
    like: whole(1, 1e9).nullable().default(null),
    together: z.array(togetherSchema).max(10).default([]),
    evenly: z.boolean().default(true),
  })
  .superRefine(({ mode, folds, dates }, context) => {
    const refuse = (path: string[], message: string) => context.addIssue({ code: "custom", message, path });
    if (folds.this >= folds.of)
      refuse(["folds", "this"], `Folds are numbered from 0: of ${folds.of} the last is ${folds.of - 1}.`);
    if (mode === "by-date" && !dates.val && !dates.test)
      refuse(["dates"], "Splitting by date needs the day from which val or test begins.");
    if (dates.val && dates.test && dates.val >= dates.test)
      refuse(["dates", "test"], "test begins after val: give it a later day.");
  })
  .prefault({});

const tilePixels = whole(16, 65_536);
/** As a share of the tile below 1, in pixels from 1 on. */
const overlap = z.unknown().transform((value, context) => {
  const asShare = share(0, 0.95).safeParse(value);
  if (asShare.success) return asShare.data;
  if (typeof value === "number" && Number.isInteger(value) && value >= 1 && value < 65_536) return value;
  context.issues.push({
    code: "custom",
    message: `${JSON.stringify(value)} is no overlap. It takes a share of the tile, 0% to 95%, or whole pixels.`,
    input: value,
  });
  return z.NEVER;
}) as unknown as z.ZodType<number, unknown>;
const tileEmpty = z.enum(["keep", "leave-out"]).default("keep");
const tilesSchema = z.union([
  z.strictObject({ columns: whole(1, 64), rows: whole(1, 64), overlap: overlap.default(0), empty: tileEmpty }),
  z.strictObject({ width: tilePixels, height: tilePixels, overlap: overlap.default(0), empty: tileEmpty }),
]);
export type Tiles = z.infer<typeof tilesSchema>;

export const resizeModes = ["fit", "pad", "stretch", "fill", "longest"] as const;
const sidePixels = whole(16, 16_384).default(640);
export const resizeSchema = z.strictObject({
  mode: z.enum(resizeModes).default("fit"),
  width: sidePixels,
  height: sidePixels,
  /** Whether a picture that is smaller is enlarged. */
  larger: z.boolean().default(false),
});
export type Resize = z.infer<typeof resizeSchema>;

const cropShare = share(0, 0.99).default(0);
const cropSchema = z
  .strictObject({ left: cropShare, top: cropShare, right: cropShare, bottom: cropShare })
  .refine(({ left, right }) => left + right < 1, {
    message: "left and right together cut everything off.",
    path: ["right"],
  })
  .refine(({ top, bottom }) => top + bottom < 1, {
    message: "top and bottom together cut everything off.",
    path: ["bottom"],
  })
  .prefault({});

const outsideSchema = z
  .string()
  .refine(
    (text) => text === "edge" || text === "mirror" || isColour(text),
    "It takes edge, mirror or a colour '#rrggbb'.",
  );

export const prepareTones = ["none", "stretch", "equalize", "adaptive"] as const;

const prepareSchema = z
  .strictObject({
    crop: cropSchema,
    tiles: tilesSchema.nullable().default(null),
    resize: resizeSchema.nullable().default(null),
    outside: outsideSchema.default("edge"),
    tone: z
      .strictObject({ grey: z.boolean().default(false), contrast: z.enum(prepareTones).default("none") })
      .prefault({}),
  })
  .prefault({});

const augmentSchema = z
  .strictObject({
    copies: whole(0, 100).default(0),
    original: z.boolean().default(true),
    rare: z
      .strictObject({ share: share(0, 1).default(0.05), most: whole(1, 100).default(4) })
      .nullable()
      .default(null),
    /** Whether copies go out that no op changed. */
    unchanged: z.enum(["keep", "leave-out"]).default("keep"),
    do: augmentStepsSchema.default([]),
  })
  .prefault({});

const formatSchema = z.union([
  z
    .string()
    .min(1)
    .transform((format) => ({ format, options: {} })),
  z.strictObject({
    format: z.string().min(1),
    options: z
      .record(z.string(), z.union([z.string(), z.number(), z.boolean()]))
      .transform((options) => Object.fromEntries(Object.entries(options).map(([key, value]) => [key, String(value)])))
      .default({}),
  }),
]);

const nameParts = ["name", "number", "hash", "split"];
const namesSchema = z
  .string()
  .min(1)
  .max(120)
  .superRefine((text, context) => {
    const found = [...text.matchAll(/\{([^}]*)\}/g)].map((match) => match[1] as string);
    const unknown = found.find((name) => !nameParts.includes(name));
    const parts = nameParts.map((name) => `{${name}}`).join(" ");
    if (unknown !== undefined)
      context.addIssue({ code: "custom", message: `{${unknown}} is no part of a name. There are ${parts}.` });
    else if (!found.some((name) => name !== "split"))
      context.addIssue({ code: "custom", message: "A name needs {name}, {number} or {hash}, to tell images apart." });
    else if (/[/\\]/.test(text)) context.addIssue({ code: "custom", message: "A name has no slash." });
  });

const packSchema = z
  .strictObject({
    formats: z
      .array(formatSchema)
      .max(40)
      .default([{ format: "yolo", options: {} }]),
    images: z
      .strictObject({ as: z.enum(["same", "jpg", "png", "webp"]).default("same"), quality: whole(1, 100).default(92) })
      .prefault({}),
    names: namesSchema.default("{name}"),
    /** The order of the class numbers. */
    classes: z.union([z.enum(["stock", "name", "count"]), z.array(className).max(10_000)]).default("stock"),
  })
  .prefault({});

export const planSchema = z.strictObject({
  plan: z.literal(2).default(2),
  seed: whole(0, 2 ** 31 - 1).default(1),
  select: selectSchema,
  relabel: relabelSchema,
  split: splitSchema,
  /** An object stays while this share of its area, of before the step, is inside. */
  visible: share().default(0.3),
  prepare: prepareSchema,
  augment: augmentSchema,
  pack: packSchema,
  /** Findings that keep the plan from being built; none where it is left out. */
  gates: gatesSchema,
});
export type Plan = z.infer<typeof planSchema>;

/**
 * A plan as it starts on the screen: everything labeled or empty as it is, splits that came are kept, the rest is dealt 80
 * / 10 / 10, and a copy that nothing changed does not go out.
 */
export function newPlan(format: string): Plan {
  return planSchema.parse({
    split: { stand: "all", ratio: { train: 80, val: 10, test: 10 } },
    augment: { unchanged: "leave-out" },
    pack: { formats: [format] },
  });
}
