import { answer } from "@/edge/answer";
import { packageSchema, startPackage } from "@larder/server/services/packages";

export const POST = answer(async ({ actor, id, body }) => startPackage(actor, id(), await body(packageSchema)));
