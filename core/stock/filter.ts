/** Filters of the stock as they stand in the address. Entries of one kind widen, kinds narrow each other. */
import { z } from "zod";
import { labelStates, splitNames } from "../model/item";

const several = <T extends z.ZodType>(entry: T, most = 1000) => z.array(entry).max(most).default([]);

/** Objects an image are shown in bins: 0, 1, 2, … and everything from this number on together. */
export const objectBins = 15;

export const stockFilterSchema = z.object({
  class: several(z.string()),
  split: several(z.enum([...splitNames, "none"])),
  state: several(z.enum(labelStates)),
  delivery: several(z.coerce.number().int()),
  tag: several(z.string()),
  objects: several(z.coerce.number().int().min(0)),
  source: several(z.string()),
  licence: several(z.string()),
  camera: several(z.string()),
  place: several(z.string()),
  day: several(z.string()),
  /** Single images, by their ids: what was picked by hand. */
  image: several(z.coerce.number().int(), 10_000),
});
export type StockFilter = z.infer<typeof stockFilterSchema>;
export type StockDimension = keyof StockFilter;
export const stockDimensions = Object.keys(stockFilterSchema.shape) as StockDimension[];

/** Which images are meant: all that match, but for some. */
export const selectionSchema = z.object({
  where: stockFilterSchema,
  except: z.array(z.number().int()).max(10_000).default([]),
});
export type Selection = z.infer<typeof selectionSchema>;
