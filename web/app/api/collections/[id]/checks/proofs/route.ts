import { z } from "zod";
import { proofsOf, proofsSchema } from "@larder/server/services/checks";
import { answer, one } from "@/edge/answer";

const { key, start, limit, where } = proofsSchema.shape;
const pageSchema = z.object({ key: one(key), start: one(start), limit: one(limit), where: one(where) });

export const GET = answer(({ actor, id, query }) => proofsOf(actor, id(), query(pageSchema)));
