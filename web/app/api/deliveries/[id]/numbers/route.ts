import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { sheetNumbers } from "@larder/server/services/intake/preview";

export const GET = answer(({ id }) => sheetNumbers(localActor, id()));
