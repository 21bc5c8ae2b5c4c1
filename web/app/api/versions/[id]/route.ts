import { answer } from "@/edge/answer";
import { versionDetail } from "@larder/server/services/version-page";
import { dismissFailed } from "@larder/server/services/versions";

export const GET = answer(({ actor, id }) => versionDetail(actor, id()));

export const DELETE = answer(({ actor, id }) => dismissFailed(actor, id()));
