import { pastStocktakes } from "@larder/server/services/checks/history";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => pastStocktakes(actor, id()));
