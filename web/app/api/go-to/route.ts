import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { goTo } from "@larder/server/services/go-to";

export const GET = answer(({ url }) => goTo(localActor, (url.searchParams.get("q") ?? "").slice(0, 80)));
