/** The bin: what was removed from stock lies there for a while, then goes for good. */
import { Failure } from "@larder/core/model/failure";
import { and, eq, isNotNull, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { numberList } from "../db/array-literal";
import { rowsOf } from "../db/query";
import { collections, images } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import type { JobContext, JobHandler } from "../jobs/handler";
import { settings } from "../settings";
import { allow } from "./access";
import type { Actor } from "./actor";
import { nameOrphans, removeUnusedBlobs } from "./blob-sweep";
import { putForgottenUploadsAside } from "./intake/forgotten-uploads";
import { nameCandidates } from "./name-candidates";

export type Bin = { images: number; days: number };

/** How many images of a collection lie in the bin, and for how many days they do. */
export async function binOf(actor: Actor, collection: number): Promise<Bin> {
  await allow(actor, "see", { collection });
  const inBin = and(eq(images.collectionId, collection), isNotNull(images.removedAt));
  return { images: await db().$count(images, inBin), days: settings().binDays };
}

export type BinnedImage = {
  id: number;
  name: string;
  width: number;
  height: number;
  objects: number;
  removedAt: string;
};

export const binPageSchema = z.object({
  /** Where the page before ended, as it said. */
  before: z
    .string()
    .regex(/^[^/]{10,40}\/\d{1,15}$/)
    .optional(),
  limit: z.number().int().min(1).max(500),
});

const binnedSchema = z.object({
  id: z.coerce.number(),
  name: z.string(),
  width: z.number(),
  height: z.number(),
  objects: z.number(),
  removedAt: z.string(),
});

/** What lies in the bin, what came last first, a page at a time; `next` is where the following page begins. */
export async function binPage(
  actor: Actor,
  collection: number,
  { before, limit }: z.infer<typeof binPageSchema>,
): Promise<{ images: BinnedImage[]; next: string | null }> {
  await allow(actor, "see", { collection });
  const [at, id] = before?.split("/") ?? [];
  if (at !== undefined && Number.isNaN(Date.parse(at)))
    throw new Failure("input-invalid", "This is no place in the bin.");
  const found = await rowsOf(
    db(),
    binnedSchema,
    sql`select id, name, width, height, object_count as objects, to_char(removed_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') as "removedAt"
      from images where collection_id = ${collection} and removed_at is not null
      ${at === undefined ? sql`` : sql`and (removed_at, id) < (${at}::timestamptz, ${Number(id)})`}
      order by removed_at desc, id desc limit ${limit}`,
  );
  const last = found[limit - 1];
  return { images: found, next: last ? `${last.removedAt}/${last.id}` : null };
}

/** Deletes for good what lies in a collection's bin now; what comes into it meanwhile stays. */
export async function emptyBin(actor: Actor, collection: number): Promise<{ job: string }> {
  await allow(actor, "manage", { collection });
  return transaction(async (tx) => {
    await changed(tx, collection, "stock");
    const [{ name } = { name: "" }] = await tx.select().from(collections).where(eq(collections.id, collection));
    const job = {
      kind: "empty-bin" as const,
      subject: collection,
      collectionId: collection,
      title: `Emptying the bin of ${name}`,
    };
    return { job: await addJob(actor, job, tx) };
  });
}

const purgedAtOnce = 500;
const goneSchema = z.object({ id: z.coerce.number() });

/** Deletes images of a collection for good that have been in the bin since before a moment, a batch at a time. */
async function purge(
  collection: number,
  before: Date,
  { write, progress }: Pick<JobContext, "write" | "progress">,
): Promise<void> {
  const waiting = and(
    eq(images.collectionId, collection),
    sql`${images.removedAt} <= ${before.toISOString()}::timestamptz`,
  );
  const total = await db().$count(images, waiting);
  for (let done = 0; ;) {
    await progress(done, total);
    const gone = await write(async (tx) => {
      await changed(tx, collection, "stock");
      const ids = await rowsOf(
        tx,
        goneSchema,
        sql`select id from ${images} where ${waiting} order by id limit ${purgedAtOnce} for update`,
      );
      const list = sql`any(${numberList(ids.map(({ id }) => id))})`;
      await nameCandidates(tx, sql`select 'blob', sha256 from images where id = ${list}`);
      await tx.execute(sql`delete from objects where image_id = ${list}`);
      await tx.execute(sql`delete from images where id = ${list}`);
      return ids.length;
    });
    done += gone;
    if (gone < purgedAtOnce) return;
  }
}

const sweep = async () => void (await removeUnusedBlobs());

export const emptyBinHandler: JobHandler = {
  run: (context) => purge(context.job.subject, context.job.createdAt, context),
  afterwards: sweep,
};

/** Once a day: what has lain in any bin for long enough goes, and uploads that never came. */
export const housekeepingHandler: JobHandler = {
  async run(context) {
    const before = new Date(Date.now() - settings().binDays * 24 * 3600 * 1000);
    const due = await rowsOf(
      db(),
      goneSchema,
      sql`select distinct collection_id as id from ${images} where removed_at <= ${before.toISOString()}::timestamptz order by 1`,
    );
    for (const { id } of due) await purge(id, before, context);
    await putForgottenUploadsAside(new Date());
  },
  async afterwards() {
    await nameOrphans();
    await sweep();
  },
};
