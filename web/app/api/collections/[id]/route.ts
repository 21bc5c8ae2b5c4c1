import {
  collectionHead,
  collectionName,
  deleteCollection,
  renameCollection,
} from "@larder/server/services/collections";
import { z } from "zod";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => collectionHead(actor, id()));
export const PATCH = answer(async ({ actor, id, body }) =>
  renameCollection(actor, id(), await body(z.object({ name: collectionName }))),
);
export const DELETE = answer(async ({ actor, id, body }) =>
  deleteCollection(actor, id(), await body(z.object({ typedName: z.string() }))),
);
