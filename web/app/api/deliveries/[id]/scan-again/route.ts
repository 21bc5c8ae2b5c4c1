import { answer } from "@/edge/answer";
import { scanAgain } from "@larder/server/services/intake/receive";

export const POST = answer(({ actor, id }) => scanAgain(actor, id()));
