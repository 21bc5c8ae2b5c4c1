/** All that is said about one image, as steps change it. Classes are named by their ids, which renaming leaves alone. */
import { z } from "zod";
import {
  attributeValueSchema,
  labeledObjectSchema,
  labelStates,
  splitSchema,
  type LabelState,
  type Split,
} from "../model/item";
import type { AttributeValue, LabeledObject } from "../model/item";
import type { Shape } from "../model/shape";

/** An object with its identity for life; `order` says what is drawn over what (lowest first, ties by uid). */
export type StockObject = Omit<LabeledObject, "class"> & {
  uid: string;
  class: number;
  order: number;
  /** Objects with the same group belong together. */
  group?: string;
};
export const stockObjectSchema = labeledObjectSchema
  .extend({ uid: z.uuid(), class: z.number().int(), order: z.number(), group: z.uuid().optional() })
  .transform((object) => object as StockObject);

/** What a model proposed: an object or an image-level class, and what became of it. */
export type Suggestion = {
  uid: string;
  run: string;
  class: number;
  confidence: number;
  shape?: Shape;
  attributes?: Record<string, AttributeValue>;
  answer?: SuggestionAnswer;
};
export const suggestionAnswers = ["taken", "mended", "refused"] as const;
export type SuggestionAnswer = (typeof suggestionAnswers)[number];
export const suggestionSchema = z
  .object({
    uid: z.uuid(),
    run: z.string(),
    class: z.number().int(),
    confidence: z.number().min(0).max(1),
    shape: labeledObjectSchema.shape.shape.optional(),
    attributes: z.record(z.string(), attributeValueSchema).optional(),
    answer: z.enum(suggestionAnswers).optional(),
  })
  .transform((suggestion) => suggestion);

export type Labels = {
  objects: readonly StockObject[];
  /** Image-level classes, by id, ascending. */
  classes: readonly number[];
  captions: readonly string[];
  fields: Readonly<Record<string, string | string[]>>;
  attributes: Readonly<Record<string, AttributeValue>>;
  state: LabelState;
  split: Split | null;
  pinned: boolean;
  /** In the order of their letters. */
  tags: readonly string[];
  suggestions: readonly Suggestion[];
  /** False while the image lies in the bin. */
  present: boolean;
};

export const noLabels: Labels = {
  objects: [],
  classes: [],
  captions: [],
  fields: {},
  attributes: {},
  state: "unlabeled",
  split: null,
  pinned: false,
  tags: [],
  suggestions: [],
  present: true,
};

/** True where something is said that a data set would carry: an object, an image-level class, a caption or a field. */
export function saysSomething(labels: Labels): boolean {
  return (
    labels.objects.length > 0 ||
    labels.classes.length > 0 ||
    labels.captions.length > 0 ||
    Object.keys(labels.fields).length > 0
  );
}

export const labelSchemas = { state: z.enum(labelStates), split: splitSchema.nullable() };
