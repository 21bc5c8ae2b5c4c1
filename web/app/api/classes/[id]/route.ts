import { changeClass, classChangeSchema } from "@larder/server/services/classes/change-class";
import { answer } from "@/edge/answer";

export const PATCH = answer(async ({ actor, id, body }) => changeClass(actor, id(), await body(classChangeSchema)));
