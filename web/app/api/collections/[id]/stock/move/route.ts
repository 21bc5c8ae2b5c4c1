import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { moveSchema, moveToSplit } from "@larder/server/services/stock";

export const POST = answer(async ({ id, body }) => moveToSplit(localActor, id(), await body(moveSchema)));
