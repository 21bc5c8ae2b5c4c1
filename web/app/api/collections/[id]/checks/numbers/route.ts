import { z } from "zod";
import { numbersOf, numbersSchema } from "@larder/server/services/checks/numbers";
import { answer, one } from "@/edge/answer";
import { askedScope } from "@/edge/asked-scope";

const askedSchema = z.object({ ...askedScope, longEdge: one(numbersSchema.shape.longEdge) });

export const GET = answer(({ actor, id, query }) => numbersOf(actor, id(), query(askedSchema)));
