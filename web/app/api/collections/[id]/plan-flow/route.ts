import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { planFlow } from "@larder/server/services/plans";

export const POST = answer(async ({ actor, id, body }) => planFlow(actor, id(), await body(planSchema)));
