import { z } from "zod";
import { numbersOf, numbersSchema } from "@larder/server/services/checks";
import { answer, one } from "@/edge/answer";

const { longEdge, where } = numbersSchema.shape;
const askedSchema = z.object({ longEdge: one(longEdge), where: one(where) });

export const GET = answer(({ actor, id, query }) => numbersOf(actor, id(), query(askedSchema)));
