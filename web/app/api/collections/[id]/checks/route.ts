import { z } from "zod";
import { checksOf, scopeSchema } from "@larder/server/services/checks";
import { answer, one } from "@/edge/answer";

const askedSchema = z.object({ where: one(scopeSchema.shape.where) });

export const GET = answer(({ actor, id, query }) => checksOf(actor, id(), query(askedSchema)));
