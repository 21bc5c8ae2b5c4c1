import { answer } from "@/edge/answer";
import { savedSelectionSchema, savedSelectionsOf, saveSelection } from "@larder/server/services/stock/saved-selections";

export const GET = answer(({ actor, id }) => savedSelectionsOf(actor, id()));
export const POST = answer(async ({ actor, id, body }) => saveSelection(actor, id(), await body(savedSelectionSchema)));
