import { answer } from "@/edge/answer";
import { versionsOf } from "@larder/server/services/versions";

export const GET = answer(({ actor, id }) => versionsOf(actor, id()));
