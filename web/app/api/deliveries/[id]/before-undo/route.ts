import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { beforeUndo } from "@larder/server/services/deliveries";

export const GET = answer(({ id }) => beforeUndo(localActor, id()));
