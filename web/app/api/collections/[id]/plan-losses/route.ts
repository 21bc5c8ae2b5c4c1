import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { planSchema } from "@larder/core/plans/plan";
import { foreseenLosses } from "@larder/server/services/plans";

export const POST = answer(async ({ id, body }) => foreseenLosses(localActor, id(), await body(planSchema)));
