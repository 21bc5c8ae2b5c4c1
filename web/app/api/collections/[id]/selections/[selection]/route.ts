import { answer } from "@/edge/answer";
import { forgetSelection } from "@larder/server/services/stock/saved-selections";

export const DELETE = answer(({ actor, id }) => forgetSelection(actor, id(), id("selection")));
