import { dismissFinding, dismissSchema } from "@larder/server/services/checks/dismissals";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, id, body }) => dismissFinding(actor, id(), await body(dismissSchema)));
