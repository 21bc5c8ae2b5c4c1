import { answer } from "@/edge/answer";
import { filesArrived } from "@larder/server/services/intake/receive";

export const POST = answer(({ actor, id }) => filesArrived(actor, id()));
