import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { readAgain } from "@larder/server/services/deliveries";

export const POST = answer(({ id }) => readAgain(localActor, id()));
