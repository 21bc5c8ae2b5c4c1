/** What a person decides on the intake sheet before anything becomes stock. */
import { z } from "zod";
import { splitSchema } from "../model/item";

/**
 * Where a class of the delivery goes: to a class of the collection, which is made where it is not there, or nowhere.
 */
export const classDecisionSchema = z.union([
  z.object({ to: z.string().trim().min(1).max(200) }),
  z.object({ leaveOut: z.literal(true) }),
]);
export type ClassDecision = z.infer<typeof classDecisionSchema>;

const share = z.number().min(0).max(100);
export const splitDecisionSchema = z.discriminatedUnion("mode", [
  z.object({ mode: z.literal("keep") }),
  z.object({ mode: z.literal("none") }),
  z.object({ mode: z.literal("all"), split: splitSchema }),
  z.object({
    mode: z.literal("deal"),
    ratio: z
      .object({ train: share, val: share, test: share })
      .refine(({ train, val, test }) => train + val + test > 0, "At least one share must be above 0."),
    seed: z.number().int().min(0),
  }),
]);

/**
 * What happens where the same bytes are in stock already: the picture is skipped; or its labels take the place of the
 * ones there, join them, or are taken only where there are none.
 */
export const sameBytesModes = ["skip", "replace", "add", "fill"] as const;

const choices = z.object({
  /** The format to read it as; null takes the one that fits best. */
  format: z.string().nullable(),
  /** Whether folders named by class label their images beside what annotations say. */
  folderClasses: z.boolean(),
  /** A class that every image of the delivery takes. */
  imageClass: z.string().nullable(),
  /** Options of the format's reader, as core/formats declares them: `origin`, `levels`, `turn`, … */
  options: z.record(z.string().max(40), z.string().max(40)),
  /** Dots an inch at which pages of a PDF become images. */
  pageResolution: z.number().int().min(36, "At least 36 dots an inch.").max(600, "At most 600 dots an inch."),
  classes: z.record(z.string(), classDecisionSchema),
  splits: splitDecisionSchema,
  sameBytes: z.enum(sameBytesModes),
  /** Whether the time and place that a picture's file tells are kept. */
  keepWhenAndWhere: z.boolean(),
});
export type IntakeChoices = z.infer<typeof choices>;

export const initialChoices: IntakeChoices = {
  format: null,
  folderClasses: true,
  imageClass: null,
  options: {},
  pageResolution: 150,
  classes: {},
  splits: { mode: "keep" },
  sameBytes: "fill",
  keepWhenAndWhere: true,
};

/** Some choices, as a person changes them one at a time. */
export const changedChoicesSchema = choices.partial();

/** Choices as they are stored, with what was never decided filled in. */
export function allChoices(stored: unknown): IntakeChoices {
  return choices.parse({ ...initialChoices, ...changedChoicesSchema.parse(stored ?? {}) });
}

/** Choices that change what is read; the others only change what becomes of it. */
export const readingChoices = ["format", "folderClasses", "imageClass", "options", "pageResolution"] as const;
