import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { scanAgain } from "@larder/server/services/intake/receive";

export const POST = answer(({ id }) => scanAgain(localActor, id()));
