import { scopeSchema } from "@larder/server/services/checks/scope";
import { one } from "./answer";

const { where, plan, version } = scopeSchema.shape;

/** What checks are to look at, as a query says it. */
export const askedScope = { where: one(where), plan: one(plan), version: one(version) };
