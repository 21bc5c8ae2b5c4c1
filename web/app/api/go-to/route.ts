import { answer } from "@/edge/answer";
import { goTo } from "@larder/server/services/go-to";

export const GET = answer(({ actor, url }) => goTo(actor, (url.searchParams.get("q") ?? "").slice(0, 80)));
