import { answer } from "@/edge/answer";
import { checksOf } from "@larder/server/services/checks";

export const GET = answer(({ actor, id }) => checksOf(actor, id()));
