import { Failure } from "@larder/core/model/failure";
import { and, asc, eq, isNull, sql } from "drizzle-orm";
import type { AnyPgColumn } from "drizzle-orm/pg-core";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { classes, collections, deliveries, plans, versions } from "../db/schema";
import { announce, changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { allow, allowHere, may } from "./access";
import type { Actor } from "./actor";
import type { VersionNumbers } from "@larder/core/versions/version-numbers";
import { checkCounts } from "./checks/stocktake";

export const collectionName = z.string().trim().min(1, "Give it a name.").max(80, "A name has 80 characters at most.");
const bandCount = 8;

/** Runs what gives a collection its name; says so where another one has it. */
async function naming<T>(name: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const codes = [error, (error as Error).cause].map((one) => (one as { code?: string } | undefined)?.code);
    if (!codes.includes("23505")) throw error;
    throw new Failure("name-taken", `There is a collection called "${name}" already.`, 409);
  }
}

export async function createCollection(actor: Actor, input: { name: string }): Promise<{ id: number }> {
  allowHere(actor, "deliver");
  const name = collectionName.parse(input.name);
  return naming(name, () =>
    transaction(async (tx) => {
      const count = await tx.$count(collections);
      const [row] = await tx
        .insert(collections)
        .values({ name, band: count % bandCount, createdBy: actor.id })
        .returning({ id: collections.id });
      await announce({ collection: null, topics: ["shelf"], revision: null }, tx);
      return { id: row?.id as number };
    }),
  );
}

const words = z.string().trim().max(20_000, "At most 20,000 characters.");
export const collectionChangeSchema = z
  .object({
    name: collectionName.optional(),
    /** Markdown. */
    description: words.optional(),
    licence: words.optional(),
    citation: words.optional(),
    archived: z.boolean().optional(),
  })
  .refine((change) => Object.values(change).some((value) => value !== undefined), "Nothing to change was sent.");

/** Gives a collection another name, describes it, puts it away or takes it out again. */
export async function changeCollection(
  actor: Actor,
  id: number,
  input: z.input<typeof collectionChangeSchema>,
): Promise<void> {
  await allow(actor, "manage", { collection: id });
  const { archived, ...change } = collectionChangeSchema.parse(input);
  const set = {
    ...Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined)),
    ...(archived === undefined ? {} : { archivedAt: archived ? new Date() : null }),
  };
  await naming(change.name ?? "", () =>
    transaction(async (tx) => {
      await changed(tx, id, "shelf");
      await tx.update(collections).set(set).where(eq(collections.id, id));
    }),
  );
}

/**
 * Takes a collection off the shelf at once; `typedName` must be its name. What it holds is deleted by a job, which takes
 * as long as it takes.
 */
export async function deleteCollection(
  actor: Actor,
  id: number,
  input: { typedName: string },
): Promise<{ job: string }> {
  await allow(actor, "manage", { collection: id });
  const { name } = await collectionRow(id);
  if (input.typedName.trim() !== name) throw new Failure("name-differs", `Type "${name}" to delete it.`);
  return transaction(async (tx) => {
    await changed(tx, id, "shelf");
    await tx.update(collections).set({ deletingAt: new Date() }).where(eq(collections.id, id));
    // The job stands beside the collection, not in it: it outlives it.
    const job = { kind: "delete-collection" as const, subject: id, collectionId: null, title: `Deleting ${name}` };
    return { job: await addJob(actor, job, tx) };
  });
}

/** A collection that is not being deleted. Whoever calls it has asked `allow`. */
export async function collectionRow(id: number): Promise<typeof collections.$inferSelect> {
  const [row] = await db()
    .select()
    .from(collections)
    .where(and(eq(collections.id, id), isNull(collections.deletingAt)));
  if (!row) throw new Failure("collection-missing", `There is no collection ${id}. It may have been deleted.`, 404);
  return row;
}

export type CollectionHead = { id: number; name: string; band: number; revision: number; line: Line };

/** What stands above every page of a collection: its name, its colour band, the numbers of its stations. */
export async function collectionHead(actor: Actor, id: number): Promise<CollectionHead> {
  const { name, band, revision } = await collectionRow(id);
  return { id, name, band, revision, line: await line(actor, id) };
}

/** The revision of every collection that the actor may see: what a page that was away catches up by. */
export async function revisions(actor: Actor): Promise<Record<number, number>> {
  const rows = await db().select({ id: collections.id, revision: collections.revision }).from(collections);
  return Object.fromEntries(rows.filter(({ id }) => may(actor, "see", id)).map(({ id, revision }) => [id, revision]));
}

export type Shelf = {
  id: number;
  name: string;
  band: number;
  images: number;
  objects: number;
  bytes: number;
  description: string;
  licence: string;
  citation: string;
  archived: boolean;
  classes: { name: string; colour: number; count: number }[];
  pictures: { id: number; sha256: string; width: number; height: number }[];
  lastVersion: {
    id: number;
    number: number;
    name: string;
    frozenAt: string;
    shares: string;
    packageId: number | null;
  } | null;
};

const pictureSchema = z.object({
  collection: z.coerce.number(),
  id: z.coerce.number(),
  sha256: z.string(),
  width: z.number(),
  height: z.number(),
});
const lastVersionSchema = z.object({
  collection: z.coerce.number(),
  id: z.coerce.number(),
  number: z.number(),
  name: z.string(),
  frozen: z.coerce.date(),
  numbers: z.custom<VersionNumbers | null>((value) => typeof value === "object"),
  package: z.coerce.number().nullable(),
});
/** Classes of a shelf's thin bar; what is rarer would be no wider than a hair. */
const barClasses = 40;

/** Every collection as its shelf shows it: stored numbers, a strip of pictures, class balance, last version. */
export async function shelves(actor: Actor): Promise<Shelf[]> {
  const rows = (
    await db()
      .select()
      .from(collections)
      .where(isNull(collections.deletingAt))
      .orderBy(sql`${collections.archivedAt} is not null`, asc(collections.createdAt), asc(collections.id))
  ).filter(({ id }) => may(actor, "see", id));
  const ids = sql.param(rows.map(({ id }) => id));
  const [balance, pictures, latest] = await Promise.all([
    rowsOf(
      db(),
      z.object({ collection: z.coerce.number(), name: z.string(), colour: z.number(), count: z.number() }),
      sql`select c.id as collection, k.name, k.colour, k.labels as count from unnest(${ids}::bigint[]) c(id) cross join lateral (
        select name, colour, labels, position from classes k where k.collection_id = c.id and k.merged_into is null and k.removed_at is null
        order by labels desc, position limit ${barClasses}) k order by c.id, k.labels desc, k.position`,
    ),
    // A spread over the stock rather than its first few, the same at every visit.
    rowsOf(
      db(),
      pictureSchema,
      sql`select c.id as collection, p.* from unnest(${ids}::bigint[]) c(id) cross join lateral (
        select id, sha256, width, height from images i where i.collection_id = c.id and i.removed_at is null and i.state <> 'empty'
        order by i.sha256 limit 12) p`,
    ),
    rowsOf(
      db(),
      lastVersionSchema,
      sql`select distinct on (v.collection_id) v.collection_id as collection, v.id, v.number, v.name, v.frozen_at as frozen, v.numbers,
          (select p.id from packages p where p.version_id = v.id and p.status = 'ready' order by p.id limit 1) as package
        from versions v where v.collection_id = any(${ids}::bigint[]) and v.status = 'frozen' and v.selection is null order by v.collection_id, v.number desc`,
    ),
  ]);
  return rows.map(({ id, name, band, images, objects, bytes, description, licence, citation, archivedAt }): Shelf => {
    const last = latest.find(({ collection }) => collection === id);
    return {
      ...{ id, name, band, images, objects, bytes, description, licence, citation, archived: archivedAt !== null },
      classes: balance.filter(({ collection }) => collection === id).map(({ collection: _, ...row }) => row),
      pictures: pictures.filter(({ collection }) => collection === id).map(({ collection: _, ...row }) => row),
      lastVersion: last
        ? {
            id: last.id,
            number: last.number,
            name: last.name,
            frozenAt: last.frozen.toISOString(),
            shares: sharesOf(last.numbers),
            packageId: last.package,
          }
        : null,
    };
  });
}

function sharesOf(numbers: VersionNumbers | null): string {
  const counts = (["train", "val", "test"] as const).map((split) => numbers?.bySplit[split]?.images ?? 0);
  return counts.map((count) => count.toLocaleString("en-US")).join(" / ");
}

export type Line = {
  deliveries: number;
  deliveriesWaiting: number;
  stock: number;
  classes: number;
  checks: number;
  checksToLookAt: number;
  plans: number;
  versions: number;
  versionsBuilding: number;
};

/** The live numbers of the six stations. */
export async function line(actor: Actor, id: number): Promise<Line> {
  await allow(actor, "see", { collection: id });
  const in_ = <T extends { collectionId: AnyPgColumn }>(table: T) => eq(table.collectionId, id);
  const [[delivered], collection, classCount, planCount, [versionCount], checks] = await Promise.all([
    db()
      .select({
        all: sql<number>`count(*) filter (where ${deliveries.status} = 'taken')::int`,
        waiting: sql<number>`count(*) filter (where ${deliveries.status} in ('read', 'failed'))::int`,
      })
      .from(deliveries)
      .where(in_(deliveries)),
    collectionRow(id),
    db().$count(classes, and(in_(classes), isNull(classes.mergedInto), isNull(classes.removedAt))),
    db().$count(plans, in_(plans)),
    db()
      .select({
        frozen: sql<number>`count(*) filter (where ${versions.status} = 'frozen' and ${versions.selection} is null)::int`,
        building: sql<number>`count(*) filter (where ${versions.status} = 'building')::int`,
      })
      .from(versions)
      .where(in_(versions)),
    checkCounts(id),
  ]);
  return {
    deliveries: delivered?.all ?? 0,
    deliveriesWaiting: delivered?.waiting ?? 0,
    stock: collection.images,
    classes: classCount,
    checks: checks.all,
    checksToLookAt: checks.toLookAt,
    plans: planCount,
    versions: versionCount?.frozen ?? 0,
    versionsBuilding: versionCount?.building ?? 0,
  };
}
