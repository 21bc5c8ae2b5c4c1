import { answer } from "@/edge/answer";
import { changeDelivery, deliveryChangeSchema, deliveryOf, undoDelivery } from "@larder/server/services/deliveries";

export const GET = answer(({ actor, id }) => deliveryOf(actor, id()));
export const PATCH = answer(async ({ actor, id, body }) =>
  changeDelivery(actor, id(), await body(deliveryChangeSchema)),
);
export const DELETE = answer(({ actor, id }) => undoDelivery(actor, id()));
