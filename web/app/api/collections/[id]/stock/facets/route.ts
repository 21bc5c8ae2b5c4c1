import { askedSelection } from "@/edge/asked-selection";
import { answer } from "@/edge/answer";
import { facets } from "@larder/server/services/stock";

export const GET = answer(({ actor, id, query }) => facets(actor, id(), query(askedSelection)));
