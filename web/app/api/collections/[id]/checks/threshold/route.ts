import { setThreshold, thresholdSchema } from "@larder/server/services/checks/thresholds";
import { answer } from "@/edge/answer";

export const PUT = answer(async ({ actor, id, body }) => setThreshold(actor, id(), await body(thresholdSchema)));
