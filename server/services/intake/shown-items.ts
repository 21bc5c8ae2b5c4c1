/** Which images of a delivery its sheet shows: of one kind, or those with one finding. */
import { itemFilters, type ItemFilter } from "@larder/core/intake/item-filters";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { nearCopy, repeated, sameBytes, state, worthALook } from "./staged-conditions";

export const shownSchema = z.object({ filter: z.enum(itemFilters), finding: z.string().max(60).optional() });
type Shown = z.infer<typeof shownSchema>;

function ofFilter(filter: ItemFilter, collectionId: number): SQL {
  switch (filter) {
    case "all":
      return sql`true`;
    case "labeled":
    case "unlabeled":
    case "empty":
      return sql`${state} = ${filter} and unreadable is null`;
    case "findings":
      return worthALook;
    case "in-stock":
      return sameBytes(collectionId);
    case "repeats":
      return repeated;
    case "near-copies":
      return nearCopy;
    case "unreadable":
      return sql`unreadable is not null`;
    case "left-out":
      return sql`left_out`;
  }
}

/** The condition on `delivery_items` that what is shown fulfils. */
export function shownCondition({ filter, finding }: Shown, collectionId: number): SQL {
  const found =
    finding === undefined
      ? sql`true`
      : finding === "image-unreadable"
        ? sql`unreadable is not null`
        : sql`findings @> ${JSON.stringify([{ code: finding }])}::jsonb`;
  return sql`(${ofFilter(filter, collectionId)}) and (${found})`;
}
