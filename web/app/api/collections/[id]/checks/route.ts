import { checksOf } from "@larder/server/services/checks";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => checksOf(actor, id()));
