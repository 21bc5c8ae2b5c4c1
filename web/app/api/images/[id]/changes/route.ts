import { beforeSchema, imageChanges } from "@larder/server/services/bench";
import { answer, one } from "@/edge/answer";
import { z } from "zod";

const querySchema = z.object({ before: one(beforeSchema.shape.before) });

export const GET = answer(({ actor, id, query }) => imageChanges(actor, id(), query(querySchema)));
