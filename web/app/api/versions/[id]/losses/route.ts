import { answer, one } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { versionLosses } from "@larder/server/services/versions";
import { z } from "zod";

export const GET = answer(async ({ id, query }) =>
  versionLosses(localActor, id(), query(z.object({ format: one(z.string()) })).format),
);
