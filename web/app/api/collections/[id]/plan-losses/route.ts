import { answer } from "@/edge/answer";
import { planSchema } from "@larder/core/plans/plan";
import { foreseenLosses } from "@larder/server/services/planning/foreseen-losses";

export const POST = answer(async ({ actor, id, body }) => foreseenLosses(actor, id(), await body(planSchema)));
