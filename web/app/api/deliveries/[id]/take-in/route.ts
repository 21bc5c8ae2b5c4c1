import { answer } from "@/edge/answer";
import { takeInDelivery } from "@larder/server/services/deliveries";

export const POST = answer(({ actor, id }) => takeInDelivery(actor, id()));
