import { answer } from "@/edge/answer";
import { collectionName, createCollection, shelves } from "@larder/server/services/collections";
import { z } from "zod";

export const GET = answer(({ actor }) => shelves(actor));
export const POST = answer(async ({ actor, body }) =>
  createCollection(actor, await body(z.object({ name: collectionName }))),
);
