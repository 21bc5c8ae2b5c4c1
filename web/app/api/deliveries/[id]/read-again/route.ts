import { answer } from "@/edge/answer";
import { readAgain } from "@larder/server/services/deliveries";

export const POST = answer(({ actor, id }) => readAgain(actor, id()));
