import { binOf, emptyBin } from "@larder/server/services/bin";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => binOf(actor, id()));
export const DELETE = answer(({ actor, id }) => emptyBin(actor, id()));
