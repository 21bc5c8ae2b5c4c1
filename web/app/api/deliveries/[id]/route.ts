import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { deliveryRow, renameDelivery, undoDelivery } from "@larder/server/services/deliveries";
import { z } from "zod";

export const GET = answer(({ id }) => deliveryRow(id()));
export const PATCH = answer(async ({ id, body }) => renameDelivery(localActor, id(), await body(z.object({ name: z.string() }))));
export const DELETE = answer(({ id }) => undoDelivery(localActor, id()));
