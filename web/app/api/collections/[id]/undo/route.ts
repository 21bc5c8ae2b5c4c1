import { undoLast, undoLastSchema } from "@larder/server/services/acts";
import { answer } from "@/edge/answer";

/** Undoes what the person did last here, or does it again. */
export const POST = answer(async ({ actor, id, body }) => undoLast(actor, id(), await body(undoLastSchema)));
