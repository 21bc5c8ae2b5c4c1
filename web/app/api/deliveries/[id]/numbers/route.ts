import { answer } from "@/edge/answer";
import { sheetNumbers } from "@larder/server/services/intake/sheet-numbers";

export const GET = answer(({ actor, id }) => sheetNumbers(actor, id()));
