import { answer } from "@/edge/answer";
import { vocabularyOfStock } from "@larder/server/services/stock";

export const GET = answer(({ actor, id }) => vocabularyOfStock(actor, id()));
