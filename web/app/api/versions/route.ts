import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { buildSchema, startBuild } from "@larder/server/services/versions";

export const POST = answer(async ({ body }) => startBuild(localActor, await body(buildSchema)));
