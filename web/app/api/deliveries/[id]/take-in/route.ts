import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { takeInDelivery } from "@larder/server/services/deliveries";

export const POST = answer(({ id }) => takeInDelivery(localActor, id()));
