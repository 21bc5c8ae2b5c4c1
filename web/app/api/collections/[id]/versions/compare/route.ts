import { answer, one } from "@/edge/answer";
import { comparedVersions } from "@larder/server/services/compare-versions";
import { z } from "zod";

const number = one(z.coerce.number().int().positive());

export const GET = answer(async ({ actor, id, query }) =>
  comparedVersions(actor, id(), query(z.object({ first: number, second: number }))),
);
