/** Deletes a collection that was taken off the shelf, in batches, with everything it holds. */
import { eq, inArray, sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { db } from "../db/database";
import { exists } from "../db/query";
import { collections, deliveries, jobs } from "../db/schema";
import { requestStop } from "../jobs/queue";
import type { JobContext, JobHandler } from "../jobs/handler";
import { removeUnusedBlobs } from "./blob-sweep";
import { removeKeptFeatures } from "../snapshot/kept-features";
import { nameCandidates } from "./name-candidates";
import { removeSentFiles } from "./intake/sent-files";

const deletedAtOnce = 2000;

/** Work on the collection has to end before what it works on goes; a worker that was lost is not waited for. */
async function untilItRests(collection: number): Promise<void> {
  const live = await db()
    .select({ id: jobs.id })
    .from(jobs)
    .where(sql`${jobs.collectionId} = ${collection} and ${inArray(jobs.status, ["queued", "running", "paused"])}`);
  for (const { id } of live) await requestStop(id);
  const running = sql`select 1 from ${jobs} where collection_id = ${collection} and status = 'running' and lease_until > now() limit 1`;
  while (await exists(db(), running)) await sleep(50);
}

async function run({ job, progress, write }: JobContext): Promise<void> {
  const collection = job.subject;
  const [row] = await db().select().from(collections).where(eq(collections.id, collection));
  if (!row?.deletingAt) return;
  await untilItRests(collection);
  await write((tx) =>
    nameCandidates(
      tx,
      sql`select 'blob', sha256 from images where collection_id = ${collection}
      union select 'blob', i.sha256 from delivery_items i join deliveries d on d.id = i.delivery_id where d.collection_id = ${collection} and i.sha256 is not null
      union select 'blob', f.sha256 from delivery_files f join deliveries d on d.id = f.delivery_id where d.collection_id = ${collection}
      union select 'blob', s.sha256 from version_sources s join versions v on v.id = s.version_id where v.collection_id = ${collection}
      union select 'render', r.key from version_renders r join versions v on v.id = r.version_id where v.collection_id = ${collection}
      union select 'blob', digest from versions where collection_id = ${collection} and digest is not null
      union select 'blob', p.sha256 from packages p join versions v on v.id = p.version_id where v.collection_id = ${collection} and p.sha256 is not null`,
    ),
  );
  for (let done = 0; ;) {
    await progress(done, Math.max(done, row.images));
    const gone = await write(async (tx) => {
      const few = sql`select id from images where collection_id = ${collection} order by id limit ${deletedAtOnce}`;
      await tx.execute(sql`delete from objects where image_id in (${few})`);
      return (await tx.execute(sql`delete from images where id in (${few})`)).rowCount ?? 0;
    });
    done += gone;
    if (gone < deletedAtOnce) break;
  }
  const sent = await db()
    .select({ id: deliveries.id, origin: deliveries.origin })
    .from(deliveries)
    .where(eq(deliveries.collectionId, collection));
  for (const delivery of sent) await removeSentFiles(delivery);
  await removeKeptFeatures(collection);
  await write((tx) => tx.delete(collections).where(eq(collections.id, collection)));
}

export const deleteCollectionHandler: JobHandler = {
  // Stopped or failed, it stays off the shelf; the daily round goes on with it.
  run,
  async afterwards() {
    await removeUnusedBlobs();
  },
};
