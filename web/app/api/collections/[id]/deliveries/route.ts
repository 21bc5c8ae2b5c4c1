import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { deliveriesOf } from "@larder/server/services/deliveries";

export const GET = answer(({ id }) => deliveriesOf(localActor, id()));
