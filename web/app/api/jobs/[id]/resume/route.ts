import { goOnWithJob } from "@larder/server/services/jobs";
import { answer } from "@/edge/answer";

export const POST = answer(({ actor, uuid }) => goOnWithJob(actor, uuid()));
