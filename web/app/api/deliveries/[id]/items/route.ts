import { answer, one } from "@/edge/answer";
import { previewItems } from "@larder/server/services/intake/preview";
import { itemFilters } from "@larder/core/intake/item-filters";
import { z } from "zod";

const schema = z.object({
  filter: one(z.enum(itemFilters)),
  finding: one(z.string().optional()),
  offset: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(60)),
});

export const GET = answer(({ actor, id, query }) => previewItems(actor, id(), query(schema)));
