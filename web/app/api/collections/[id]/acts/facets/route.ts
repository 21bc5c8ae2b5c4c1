import { historyFacets } from "@larder/server/services/acts";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => historyFacets(actor, id()));
