import { answer } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { sources } from "@larder/server/services/intake/sources";

export const GET = answer(() => Promise.resolve(sources(localActor)));
