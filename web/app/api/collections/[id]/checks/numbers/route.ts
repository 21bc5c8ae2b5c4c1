import { z } from "zod";
import { numbersOf, numbersSchema } from "@larder/server/services/checks";
import { answer, one } from "@/edge/answer";

const askedSchema = z.object({ longEdge: one(numbersSchema.shape.longEdge) });

export const GET = answer(({ actor, id, query }) => numbersOf(actor, id(), query(askedSchema)));
