import { Failure } from "@larder/core/model/failure";
import { asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { classes, collections, deliveries, images, plans, versions } from "../db/schema";
import { announce } from "../jobs/events";
import { mustEdit, type Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { checksOf } from "./checks";
import { removeSentFiles } from "./intake/sent-files";

export const collectionName = z.string().trim().min(1, "Give it a name.").max(80, "A name has 80 characters at most.");
const bandCount = 8;

function nameTaken(error: unknown, name: string): never {
  const cause = (error as { cause?: { code?: string } }).cause;
  if (cause?.code === "23505" || (error as { code?: string }).code === "23505")
    throw new Failure("name-taken", `There is a collection called "${name}" already.`, 409);
  throw error;
}

export async function createCollection(actor: Actor, input: { name: string }): Promise<{ id: number }> {
  mustEdit(actor);
  const name = collectionName.parse(input.name);
  const [count] = await db()
    .select({ n: sql<number>`count(*)` })
    .from(collections);
  try {
    const [row] = await db()
      .insert(collections)
      .values({ name, band: Number(count?.n ?? 0) % bandCount, createdBy: actor.id })
      .returning({ id: collections.id });
    await announce({ kind: "collection", collection: null });
    return { id: row?.id as number };
  } catch (error) {
    return nameTaken(error, name);
  }
}

export async function renameCollection(actor: Actor, id: number, input: { name: string }): Promise<void> {
  mustEdit(actor);
  const name = collectionName.parse(input.name);
  try {
    const rows = await db()
      .update(collections)
      .set({ name })
      .where(eq(collections.id, id))
      .returning({ id: collections.id });
    if (rows.length === 0) throw noCollection(id);
  } catch (error) {
    nameTaken(error, name);
  }
  await announce({ kind: "collection", collection: id });
}

/** Deletes a collection with all it holds; `typedName` must be its name. */
export async function deleteCollection(actor: Actor, id: number, input: { typedName: string }): Promise<void> {
  mustEdit(actor);
  const collection = await collectionRow(id);
  if (input.typedName.trim() !== collection.name)
    throw new Failure("name-differs", `Type "${collection.name}" to delete it.`);
  const origins = await db()
    .select({ origin: deliveries.origin })
    .from(deliveries)
    .where(eq(deliveries.collectionId, id));
  await db().transaction(async (tx) => {
    await tx.execute(sql`insert into blob_candidates
      select sha256 from images where collection_id = ${id}
      union select vs.sha256 from version_sources vs join versions v on v.id = vs.version_id where v.collection_id = ${id}
      union select digest from versions where collection_id = ${id} and digest is not null
      union select p.sha256 from packages p join versions v on v.id = p.version_id where v.collection_id = ${id} and p.sha256 is not null
      on conflict do nothing`);
    await tx.execute(
      sql`delete from objects using images where objects.image_id = images.id and images.collection_id = ${id}`,
    );
    await tx.delete(collections).where(eq(collections.id, id));
  });
  for (const { origin } of origins) await removeSentFiles(origin);
  await removeUnusedBlobs();
  await announce({ kind: "collection", collection: null });
}

function noCollection(id: number): Failure {
  return new Failure("collection-missing", `There is no collection ${id}. It may have been deleted.`, 404);
}

export async function collectionRow(id: number): Promise<typeof collections.$inferSelect> {
  const [row] = await db().select().from(collections).where(eq(collections.id, id));
  if (!row) throw noCollection(id);
  return row;
}

export type Shelf = {
  id: number;
  name: string;
  band: number;
  images: number;
  objects: number;
  bytes: number;
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

/** Every collection as its shelf shows it: numbers, a strip of pictures, class balance, last version. */
export async function shelves(_actor: Actor): Promise<Shelf[]> {
  const rows = await db().select().from(collections).orderBy(asc(collections.createdAt), asc(collections.id));
  return Promise.all(
    rows.map(async ({ id, name, band }): Promise<Shelf> => {
      const [totals] = (
        await db().execute<{ images: number; objects: number; bytes: number }>(
          sql`select count(*)::int as images, coalesce(sum(object_count), 0)::int as objects, coalesce(sum(bytes), 0)::bigint as bytes from ${images} where collection_id = ${id}`,
        )
      ).rows;
      const balance = (
        await db().execute<{ name: string; colour: number; count: number }>(sql`
        select c.name, c.colour, coalesce(o.n, 0)::int + coalesce(i.n, 0)::int as count from ${classes} c
        left join (select key::bigint as id, sum(value::int) as n from ${images}, jsonb_each_text(class_counts) where collection_id = ${id} group by 1) o on o.id = c.id
        left join (select unnest(image_class_ids) as id, count(*) as n from ${images} where collection_id = ${id} group by 1) i on i.id = c.id
        where c.collection_id = ${id} order by count desc, c.position`)
      ).rows;
      // A spread over the stock rather than its first few, the same at every visit.
      const pictures = (
        await db().execute<{ id: number; sha256: string; width: number; height: number }>(
          sql`select id::int, sha256, width, height from ${images} where collection_id = ${id} and state <> 'empty' order by md5(sha256) limit 12`,
        )
      ).rows;
      const [last] = (
        await db().execute<{
          id: number;
          number: number;
          name: string;
          frozen_at: string;
          numbers: typeof versions.$inferSelect.numbers;
          package_id: number | null;
        }>(sql`
        select v.id::int, v.number, v.name, v.frozen_at, v.numbers, (select p.id::int from packages p where p.version_id = v.id and p.status = 'ready' order by p.id limit 1) as package_id
        from ${versions} v where v.collection_id = ${id} and v.status = 'frozen' order by v.number desc limit 1`)
      ).rows;
      return {
        id,
        name,
        band,
        images: totals?.images ?? 0,
        objects: totals?.objects ?? 0,
        bytes: Number(totals?.bytes ?? 0),
        classes: balance,
        pictures,
        lastVersion: last
          ? {
              id: last.id,
              number: last.number,
              name: last.name,
              frozenAt: new Date(last.frozen_at).toISOString(),
              shares: sharesOf(last.numbers),
              packageId: last.package_id,
            }
          : null,
      };
    }),
  );
}

function sharesOf(numbers: typeof versions.$inferSelect.numbers): string {
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
  const count = sql<number>`count(*)::int`;
  const [[delivered], [stock], [classCount], [planCount], [versionCount], checks] = await Promise.all([
    db()
      .select({
        all: sql<number>`count(*) filter (where ${deliveries.status} = 'taken')::int`,
        waiting: sql<number>`count(*) filter (where ${deliveries.status} in ('read', 'failed'))::int`,
      })
      .from(deliveries)
      .where(eq(deliveries.collectionId, id)),
    db().select({ n: count }).from(images).where(eq(images.collectionId, id)),
    db().select({ n: count }).from(classes).where(eq(classes.collectionId, id)),
    db().select({ n: count }).from(plans).where(eq(plans.collectionId, id)),
    db()
      .select({
        frozen: sql<number>`count(*) filter (where ${versions.status} = 'frozen')::int`,
        building: sql<number>`count(*) filter (where ${versions.status} = 'building')::int`,
      })
      .from(versions)
      .where(eq(versions.collectionId, id)),
    checksOf(actor, id),
  ]);
  return {
    deliveries: delivered?.all ?? 0,
    deliveriesWaiting: delivered?.waiting ?? 0,
    stock: stock?.n ?? 0,
    classes: classCount?.n ?? 0,
    checks: checks.length,
    checksToLookAt: checks.filter((check) => check.severity !== "info").length,
    plans: planCount?.n ?? 0,
    versions: versionCount?.frozen ?? 0,
    versionsBuilding: versionCount?.building ?? 0,
  };
}
