import { pauseJob } from "@larder/server/services/jobs";
import { answer } from "@/edge/answer";

export const POST = answer(({ actor, text }) => pauseJob(actor, text("id")));
