import { answer } from "@/edge/answer";
import { duplicatePlan } from "@larder/server/services/plans";

export const POST = answer(({ actor, id }) => duplicatePlan(actor, id()));
