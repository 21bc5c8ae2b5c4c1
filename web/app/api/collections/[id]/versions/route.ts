import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { versionsOf } from "@larder/server/services/versions";

export const GET = answer(({ id }) => versionsOf(localActor, id()));
