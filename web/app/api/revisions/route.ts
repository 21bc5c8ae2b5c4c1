import { revisions } from "@larder/server/services/collections";
import { answer } from "@/edge/answer";

export const GET = answer(({ actor }) => revisions(actor));
