import { packageFormats, formatNamed } from "@larder/core/formats/registry";
import { checkedOptions } from "@larder/core/formats/options";
import { Failure } from "@larder/core/model/failure";
import { suitedFormat, type StockHoldings } from "@larder/core/formats/default-target";
import { shapeKinds } from "@larder/core/model/shape";
import { newPlan, planSchema, type Plan } from "@larder/core/plans/plan";
import { expandSaved } from "@larder/core/plans/saved-selections";
import { planFromYaml, planToYaml } from "@larder/core/plans/plan-text";
import { upgradePlan } from "@larder/core/plans/upgrade";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { and, asc, desc, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction, type Database, type Transaction } from "../db/database";
import { numberOf, rowsOf } from "../db/query";
import { deliveries, planRevisions, plans, versions } from "../db/schema";
import { changed } from "../jobs/events";
import { allow } from "./access";
import type { Actor } from "./actor";
import { savedConditions } from "./stock/saved-selections";

const planName = z.string().trim().min(1, "Give it a name.").max(80, "A name has 80 characters at most.");

/** What a plan was built as last; `changed` says whether the plan, and how often the stock, was changed since. */
export type LastVersion = { number: number; frozenAt: string; changed: { plan: boolean; acts: number } };
export type PlanRow = typeof plans.$inferSelect & { lastVersion: LastVersion | null };

const builtSchema = z.object({
  plan: z.coerce.number(),
  number: z.number(),
  frozen: z.coerce.date(),
  body: z.unknown(),
  acts: z.coerce.number(),
});

export async function plansOf(actor: Actor, collectionId: number): Promise<PlanRow[]> {
  await allow(actor, "see", { collection: collectionId });
  const rows = await db().select().from(plans).where(eq(plans.collectionId, collectionId)).orderBy(asc(plans.id));
  return withLastVersions(collectionId, rows);
}

async function withLastVersions(
  collectionId: number,
  rows: readonly (typeof plans.$inferSelect)[],
): Promise<PlanRow[]> {
  // Acts that were begun before the version was frozen may have been in its stock or not: they count as later ones.
  const built = await rowsOf(
    db(),
    builtSchema,
    sql`select v.*, (select count(*) from acts a where a.collection_id = ${collectionId} and a.status = 'done' and a.undoes is null
          and a.undone_by is null and a.created_at > v.begun) as acts
      from (select distinct on (plan_id) plan_id as plan, number, frozen_at as frozen, created_at as begun, plan as body from ${versions}
        where collection_id = ${collectionId} and status = 'frozen' and plan_id is not null order by plan_id, number desc) v`,
  );
  const names = await deliveryNames(collectionId);
  const saved = await savedConditions(collectionId);
  return rows.map((row) => {
    const last = built.find(({ plan }) => plan === row.id);
    const body = upgradePlan(row.body, names);
    return {
      ...row,
      body,
      lastVersion: last
        ? {
            number: last.number,
            frozenAt: last.frozen.toISOString(),
            changed: { plan: !meansSame(body, upgradePlan(last.body), saved), acts: last.acts },
          }
        : null,
    };
  });
}

/** Whether a plan still says what a version froze, its saved selections put in. */
function meansSame(plan: Plan, frozen: Plan, saved: ReadonlyMap<string, string>): boolean {
  try {
    const where = expandSaved(plan.select.where, saved);
    return canonicalJson({ ...plan, select: { ...plan.select, where } }) === canonicalJson(frozen);
  } catch {
    // It names a selection that is gone.
    return false;
  }
}

/** What deliveries are called, which plans of the first kind named by their ids. */
async function deliveryNames(collection: number): Promise<Map<number, string>> {
  const rows = await db()
    .select({ id: deliveries.id, name: deliveries.name })
    .from(deliveries)
    .where(eq(deliveries.collectionId, collection));
  return new Map(rows.map(({ id, name }) => [id, name]));
}

/** A plan with the defaults of what it does not say. Whoever calls it has asked `allow`. */
export async function planRow(id: number): Promise<typeof plans.$inferSelect> {
  const [row] = await db().select().from(plans).where(eq(plans.id, id));
  if (!row) throw new Failure("plan-missing", `There is no plan ${id}. It may have been deleted.`, 404);
  // A plan written by an older Larder is brought up to what plans are today.
  return { ...row, body: upgradePlan(row.body, await deliveryNames(row.collectionId)) };
}

export async function planOf(actor: Actor, id: number): Promise<PlanRow> {
  const collection = await allow(actor, "see", { plan: id });
  const [row] = await withLastVersions(collection, [await planRow(id)]);
  return row as PlanRow;
}

/** Makes a plan; without a name it is "Plan 2" or whatever number is free. */
export async function createPlan(
  actor: Actor,
  collectionId: number,
  input: { name?: string; body?: Plan },
): Promise<{ id: number }> {
  await allow(actor, "plan", { collection: collectionId });
  return transaction(async (tx) => {
    await changed(tx, collectionId, "plans");
    const rows = await tx.select({ name: plans.name }).from(plans).where(eq(plans.collectionId, collectionId));
    const names = new Set(rows.map(({ name }) => name));
    let name = input.name ? planName.parse(input.name) : `Plan ${names.size + 1}`;
    for (let n = names.size + 2; !input.name && names.has(name); n++) name = `Plan ${n}`;
    if (names.has(name)) throw planNameTaken(name);
    const [row] = await tx
      .insert(plans)
      .values({ collectionId, name, body: input.body ?? newPlan(suitedFormat(await stockHoldings(tx, collectionId))) })
      .returning({ id: plans.id });
    return { id: row?.id as number };
  });
}

/** What stands for a stock of any size when a format is chosen for it. */
const lookedAt = 5000;
const kindSchema = z.object({ kind: z.enum(shapeKinds) });

/** What the first images of a stock hold. */
export async function stockHoldings(tx: Database, collection: number): Promise<StockHoldings> {
  const few = sql`select id, image_class_ids, captions, fields from images where collection_id = ${collection} and removed_at is null order by id limit ${lookedAt}`;
  const kinds = await rowsOf(
    tx,
    kindSchema,
    sql`select distinct o.shape->>'kind' as kind from (${few}) i join objects o on o.image_id = i.id`,
  );
  const [imageClasses, texts] = await Promise.all([
    numberOf(tx, sql`select count(*) as n from (${few}) i where cardinality(image_class_ids) > 0`),
    numberOf(tx, sql`select count(*) as n from (${few}) i where jsonb_array_length(captions) > 0 or fields <> '{}'`),
  ]);
  return { kinds: new Set(kinds.map(({ kind }) => kind)), imageClasses, texts };
}

const planNameTaken = (name: string) => new Failure("name-taken", `There is a plan called "${name}" already.`, 409);

/** Throws a Failure where a plan packs what cannot be packed, or with options that the format does not take. */
function checkFormats({ pack }: Plan): void {
  for (const { format, options } of pack.formats) {
    if (!packageFormats.includes(format))
      throw new Failure(
        "format-unknown",
        `A package cannot be written as "${format}". It can be: ${packageFormats.join(", ")}.`,
      );
    checkedOptions(formatNamed(format), options);
  }
}

/** Edits by one person within so many seconds are one state of the plan's history. */
const revisionSeconds = 60;
const mostRevisions = 500;

/** Keeps what a plan said before it is changed, unless the same person's change of a moment ago did. */
async function keepRevision(tx: Transaction, actor: Actor, row: typeof plans.$inferSelect): Promise<void> {
  const [last] = await tx
    .select()
    .from(planRevisions)
    .where(eq(planRevisions.planId, row.id))
    .orderBy(desc(planRevisions.id))
    .limit(1);
  if (last?.createdBy === actor.id && Date.now() - last.createdAt.getTime() < revisionSeconds * 1000) return;
  await tx.insert(planRevisions).values({ planId: row.id, body: row.body, createdBy: actor.id });
  await tx.execute(sql`delete from plan_revisions where plan_id = ${row.id} and id not in
    (select id from plan_revisions where plan_id = ${row.id} order by id desc limit ${mostRevisions})`);
}

/** A state that a plan was in until it was changed. */
export type PlanRevision = { id: number; at: Date; by: string; body: Plan; yaml: string };

/** What a plan said before, newest first. */
export async function planHistory(actor: Actor, id: number): Promise<PlanRevision[]> {
  await allow(actor, "see", { plan: id });
  const row = await planRow(id);
  const names = await deliveryNames(row.collectionId);
  const rows = await db()
    .select()
    .from(planRevisions)
    .where(eq(planRevisions.planId, id))
    .orderBy(desc(planRevisions.id))
    .limit(100);
  return rows.map(({ id: revision, createdAt, createdBy, body }) => {
    const upgraded = upgradePlan(body, names);
    return { id: revision, at: createdAt, by: createdBy, body: upgraded, yaml: planToYaml(upgraded) };
  });
}

/** A plan of the same steps under a name of its own. */
export async function duplicatePlan(actor: Actor, id: number): Promise<{ id: number }> {
  await allow(actor, "see", { plan: id });
  const { collectionId, name, body } = await planRow(id);
  const rows = await db().select({ name: plans.name }).from(plans).where(eq(plans.collectionId, collectionId));
  const names = new Set(rows.map((row) => row.name));
  let copy = `${name} (copy)`.slice(-80);
  for (let n = 2; names.has(copy); n++) copy = `${name} (copy ${n})`.slice(-80);
  return createPlan(actor, collectionId, { name: copy, body });
}

/** Changes a plan's name or its steps, given as data or as YAML. */
export async function savePlan(
  actor: Actor,
  id: number,
  input: { name?: string | undefined; body?: unknown; yaml?: string | undefined },
): Promise<PlanRow> {
  await allow(actor, "plan", { plan: id });
  const row = await planRow(id);
  const body =
    input.yaml !== undefined
      ? planFromYaml(input.yaml)
      : input.body !== undefined
        ? planSchema.parse(input.body)
        : row.body;
  checkFormats(body);
  const name = input.name !== undefined ? planName.parse(input.name) : row.name;
  const saved = await transaction(async (tx) => {
    await changed(tx, row.collectionId, "plans");
    const [other] = await tx
      .select({ id: plans.id })
      .from(plans)
      .where(and(eq(plans.collectionId, row.collectionId), eq(plans.name, name), ne(plans.id, id)));
    if (other) throw planNameTaken(name);
    if (JSON.stringify(body) !== JSON.stringify(row.body)) await keepRevision(tx, actor, row);
    const [changedRow] = await tx
      .update(plans)
      .set({ body, name, updatedAt: new Date() })
      .where(eq(plans.id, id))
      .returning();
    return changedRow as typeof plans.$inferSelect;
  });
  const [withLast] = await withLastVersions(row.collectionId, [saved]);
  return withLast as PlanRow;
}

export async function deletePlan(actor: Actor, id: number): Promise<void> {
  const collection = await allow(actor, "plan", { plan: id });
  await transaction(async (tx) => {
    await changed(tx, collection, "plans");
    await tx.delete(plans).where(eq(plans.id, id));
  });
}
