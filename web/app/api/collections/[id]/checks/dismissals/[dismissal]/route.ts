import { recallDismissal } from "@larder/server/services/checks/dismissals";
import { answer } from "@/edge/answer";

export const DELETE = answer(({ actor, id }) => recallDismissal(actor, id(), id("dismissal")));
