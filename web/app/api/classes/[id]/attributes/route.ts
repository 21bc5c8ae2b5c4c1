import { classAttributesSchema, setClassAttributes } from "@larder/server/services/classes";
import { answer } from "@/edge/answer";

export const PUT = answer(async ({ actor, id, body }) =>
  setClassAttributes(actor, id(), await body(classAttributesSchema)),
);
