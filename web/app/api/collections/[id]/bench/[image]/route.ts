import { benchImage } from "@larder/server/services/bench";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor, id }) => benchImage(actor, id(), id("image")));
