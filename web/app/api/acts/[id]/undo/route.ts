import { undoAct } from "@larder/server/services/acts";
import { answer } from "@/edge/answer";

export const POST = answer(({ actor, id }) => undoAct(actor, id()));
