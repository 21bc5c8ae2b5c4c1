import { mendFinding, mendSchema } from "@larder/server/services/checks/mend";
import { answer } from "@/edge/answer";

export const POST = answer(async ({ actor, id, body }) => mendFinding(actor, id(), await body(mendSchema)));
