import { answer } from "@/edge/answer";
import { renameClass, renameSchema } from "@larder/server/services/classes/rename";

export const PUT = answer(async ({ actor, id, body }) => renameClass(actor, id(), await body(renameSchema)));
