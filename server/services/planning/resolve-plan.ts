/** What a plan names and only a collection knows: saved selections, and an earlier version's splits. */
import { Failure } from "@larder/core/model/failure";
import type { Split } from "@larder/core/model/item";
import type { Plan } from "@larder/core/plans/plan";
import { expandSaved } from "@larder/core/plans/saved-selections";
import { and, eq } from "drizzle-orm";
import { blobs } from "../../blobs/store";
import { db, type Database } from "../../db/database";
import { versions } from "../../db/schema";
import type { PlanQuestion } from "../../snapshot/questions";
import { manifestLines } from "../../blobs/manifest-lines";
import { savedConditions } from "../stock/saved-selections";

/** Splits of frozen versions, which never change; the few that were asked for last. */
const splitsOf = new Map<number, Promise<Map<string, Split>>>();
const mostKept = 4;

async function splitsIn(digest: string): Promise<Map<string, Split>> {
  const splits = new Map<string, Split>();
  for await (const { source, split } of manifestLines(await blobs().stream(digest))) splits.set(source, split);
  return splits;
}

async function likeOf(collection: number, number: number): Promise<Map<string, Split>> {
  const [version] = await db()
    .select({ id: versions.id, digest: versions.digest })
    .from(versions)
    .where(and(eq(versions.collectionId, collection), eq(versions.number, number), eq(versions.status, "frozen")));
  if (!version?.digest)
    throw new Failure("version-missing", `split.like names v${number}, and this collection has no such version.`, 422);
  const known = splitsOf.get(version.id);
  if (known) return known;
  const reading = splitsIn(version.digest);
  if (splitsOf.size >= mostKept) splitsOf.delete(splitsOf.keys().next().value as number);
  splitsOf.set(version.id, reading);
  reading.catch(() => splitsOf.delete(version.id));
  return reading;
}

/** The plan with saved selections put in, and the splits it goes by. Throws a Failure where either is not there. */
export async function resolvePlan(collection: number, plan: Plan, on: Database = db()): Promise<PlanQuestion> {
  const { where } = plan.select;
  const saved = where.includes("@") ? await savedConditions(collection, on) : new Map<string, string>();
  const expanded = expandSaved(where, saved);
  return {
    plan: { ...plan, select: { ...plan.select, where: expanded } },
    like: plan.split.like === null ? null : await likeOf(collection, plan.split.like),
  };
}
