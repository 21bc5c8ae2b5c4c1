import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { knownSchema, noteKnownFiles } from "@larder/server/services/intake/receive";

export const POST = answer(async ({ id, body }) => noteKnownFiles(localActor, id(), await body(knownSchema)));
