import { z } from "zod";
import { proofsOf, proofsSchema } from "@larder/server/services/checks/mend";
import { answer, one } from "@/edge/answer";
import { askedScope } from "@/edge/asked-scope";

const { key, start, limit } = proofsSchema.shape;
const pageSchema = z.object({ ...askedScope, key: one(key), start: one(start), limit: one(limit) });

export const GET = answer(({ actor, id, query }) => proofsOf(actor, id(), query(pageSchema)));
