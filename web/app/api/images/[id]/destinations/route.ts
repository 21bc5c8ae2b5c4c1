import { answer } from "@/edge/answer";
import { imageDestinations } from "@larder/server/services/image-destinations";

export const GET = answer(({ actor, id }) => imageDestinations(actor, id()));
