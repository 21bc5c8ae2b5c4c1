import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { foreseenLosses } from "@larder/server/services/plans";

export const POST = answer(async ({ actor, id, body }) => foreseenLosses(actor, id(), await body(planSchema)));
