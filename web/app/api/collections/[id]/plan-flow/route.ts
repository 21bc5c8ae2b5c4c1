import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { planSchema } from "@larder/core/plans/plan";
import { planFlow } from "@larder/server/services/plans";

export const POST = answer(async ({ id, body }) => planFlow(localActor, id(), await body(planSchema)));
