import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { collectionName, createCollection, shelves } from "@larder/server/services/collections";
import { z } from "zod";

export const GET = answer(() => shelves(localActor));
export const POST = answer(async ({ body }) =>
  createCollection(localActor, await body(z.object({ name: collectionName }))),
);
