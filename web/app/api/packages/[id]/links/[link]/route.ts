import { answer } from "@/edge/answer";
import { endLink } from "@larder/server/services/package-links";

export const DELETE = answer(({ actor, id }) => endLink(actor, id(), id("link")));
