import { answer } from "@/edge/answer";
import { buildSchema, startBuild } from "@larder/server/services/versions";

export const POST = answer(async ({ actor, body }) => startBuild(actor, await body(buildSchema)));
