import { answer } from "@/edge/answer";
import { sources } from "@larder/server/services/intake/sources";

export const GET = answer(({ actor }) => Promise.resolve(sources(actor)));
