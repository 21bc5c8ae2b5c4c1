import { mostPicked, selectionSchema } from "@larder/core/selection/chosen";
import { longestText } from "@larder/core/selection/tokens";
import { z } from "zod";
import { one } from "./answer";

/** A selection as an address carries it: `where` is its text, `only` names single images. */
export const askedSelection = z
  .object({
    where: one(z.string().max(longestText, "A selection has 20,000 characters at most.").default("")),
    only: z.array(z.coerce.number().int()).max(mostPicked).optional(),
  })
  .transform(({ where, only }) => selectionSchema.parse({ where, only: only ?? null }));
