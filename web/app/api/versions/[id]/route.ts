import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { dismissFailed } from "@larder/server/services/versions";

export const DELETE = answer(({ id }) => dismissFailed(localActor, id()));
