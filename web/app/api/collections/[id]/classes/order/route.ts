import { classOrderSchema, orderClasses } from "@larder/server/services/classes/change-class";
import { answer } from "@/edge/answer";

export const PUT = answer(async ({ actor, id, body }) => orderClasses(actor, id(), await body(classOrderSchema)));
