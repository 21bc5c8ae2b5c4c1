import {
  changeCollection,
  collectionChangeSchema,
  collectionHead,
  deleteCollection,
} from "@larder/server/services/collections";
import { z } from "zod";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => collectionHead(actor, id()));
export const PATCH = answer(async ({ actor, id, body }) =>
  changeCollection(actor, id(), await body(collectionChangeSchema)),
);
export const DELETE = answer(async ({ actor, id, body }) =>
  deleteCollection(actor, id(), await body(z.object({ typedName: z.string() }))),
);
