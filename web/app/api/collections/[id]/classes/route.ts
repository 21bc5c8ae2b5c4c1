import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { classTable } from "@larder/server/services/classes";

export const GET = answer(({ id }) => classTable(localActor, id()));
