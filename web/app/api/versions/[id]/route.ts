import { answer } from "@/edge/answer";
import { dismissFailed } from "@larder/server/services/versions";

export const DELETE = answer(({ actor, id }) => dismissFailed(actor, id()));
