import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { checksOf } from "@larder/server/services/checks";

export const GET = answer(({ id }) => checksOf(localActor, id()));
