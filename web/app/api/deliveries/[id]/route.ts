import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { changeDelivery, deliveryChangeSchema, deliveryRow, undoDelivery } from "@larder/server/services/deliveries";

export const GET = answer(({ id }) => deliveryRow(id()));
export const PATCH = answer(async ({ id, body }) => changeDelivery(localActor, id(), await body(deliveryChangeSchema)));
export const DELETE = answer(({ id }) => undoDelivery(localActor, id()));
