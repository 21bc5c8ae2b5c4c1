import { binPage, binPageSchema } from "@larder/server/services/bin";
import { z } from "zod";
import { answer, one } from "@/edge/answer";

const asked = z.object({
  before: one(z.string().optional()),
  limit: one(z.coerce.number().int().min(1).max(500).default(100)),
});

export const GET = answer(({ actor, id, query }) => binPage(actor, id(), binPageSchema.parse(query(asked))));
