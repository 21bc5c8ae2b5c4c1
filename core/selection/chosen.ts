/** Which images are meant: all that a text means, or of some that were picked by hand those that it means; but for some. */
import { z } from "zod";
import { longestText } from "./tokens";

/** As many single images as are named by hand; beyond, a selection says which. */
export const mostPicked = 10_000;

const imageIds = z.array(z.number().int()).max(mostPicked);

export const selectionSchema = z.object({
  /** A text of the selection language; an empty one means everything. */
  where: z.string().max(longestText).default(""),
  /** Only these, by id; null where none were picked. */
  only: imageIds.nullable().default(null),
  except: imageIds.default([]),
});
export type Selection = z.infer<typeof selectionSchema>;
