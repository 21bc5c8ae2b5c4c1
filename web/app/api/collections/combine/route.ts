import { combineCollections, combineSchema } from "@larder/server/services/combine-collections";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, body }) => combineCollections(actor, await body(combineSchema)));
