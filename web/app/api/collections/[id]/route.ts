import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import {
  collectionName,
  collectionRow,
  deleteCollection,
  line,
  renameCollection,
} from "@larder/server/services/collections";
import { z } from "zod";

export const GET = answer(async ({ id }) => {
  const { name, band } = await collectionRow(id());
  return { id: id(), name, band, line: await line(localActor, id()) };
});
export const PATCH = answer(async ({ id, body }) =>
  renameCollection(localActor, id(), await body(z.object({ name: collectionName }))),
);
export const DELETE = answer(async ({ id, body }) =>
  deleteCollection(localActor, id(), await body(z.object({ typedName: z.string() }))),
);
