import { answer, one } from "@/edge/answer";
import { versionLosses } from "@larder/server/services/versions";
import { z } from "zod";

export const GET = answer(async ({ actor, id, query }) =>
  versionLosses(actor, id(), query(z.object({ format: one(z.string()) })).format),
);
