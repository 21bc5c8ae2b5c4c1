import { answer } from "@/edge/answer";
import { rawSchema, startRawVersion, versionsOf } from "@larder/server/services/versions";

export const GET = answer(({ actor, id }) => versionsOf(actor, id()));

export const POST = answer(async ({ actor, id, body }) => startRawVersion(actor, id(), await body(rawSchema)));
