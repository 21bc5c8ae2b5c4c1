import { jobOf } from "@larder/server/services/jobs";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, uuid }) => jobOf(actor, uuid()));
