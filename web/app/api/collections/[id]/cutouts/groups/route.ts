import { groupsOfCutouts } from "@larder/server/services/stock/cutouts";
import { askedSelection } from "@/edge/asked-selection";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id, query }) => groupsOfCutouts(actor, id(), query(askedSelection)));
