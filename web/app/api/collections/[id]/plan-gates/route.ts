import { planSchema } from "@larder/core/plans/plan";
import { planGates } from "@larder/server/services/checks/gates";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, id, body }) => planGates(actor, id(), await body(planSchema)));
