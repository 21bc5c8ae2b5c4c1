import { answer } from "@/edge/answer";
import { beforeUndo } from "@larder/server/services/deliveries";

export const GET = answer(({ actor, id }) => beforeUndo(actor, id()));
