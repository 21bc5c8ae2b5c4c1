import { answer } from "@/edge/answer";
import { linksOf, linkSchema, makeLink } from "@larder/server/services/package-links";

export const GET = answer(({ actor, id }) => linksOf(actor, id()));

export const POST = answer(async ({ actor, id, body }) => makeLink(actor, id(), await body(linkSchema)));
