import { cutoutGroupSchema, cutoutOrders } from "@larder/core/snapshot/cutout-group";
import { cutoutsPage } from "@larder/server/services/stock/cutouts";
import { z } from "zod";
import { askedSelection } from "@/edge/asked-selection";
import { answer, one } from "@/edge/answer";

const numbers = z.object({
  start: one(z.coerce.number().int().min(0)),
  limit: one(z.coerce.number().int().min(1).max(500)),
  by: one(z.enum(cutoutOrders)),
  down: one(z.enum(["true", "false"]).default("false")),
  pictures: one(z.enum(["none", "small", "ready", "sharp"]).default("none")),
});
const groupSchema = z
  .object({
    of: one(z.string()),
    id: one(z.coerce.number().optional()),
    name: one(z.string().max(200).optional()),
    value: one(z.string().max(1000).optional()),
  })
  .transform((asked) => cutoutGroupSchema.parse(asked));

export const GET = answer(({ request, actor, id, query }) => {
  const { down, ...page } = query(numbers);
  const asked = {
    ...page,
    down: down === "true",
    group: query(groupSchema),
  };
  return cutoutsPage(actor, id(), query(askedSelection), asked, request.signal);
});
