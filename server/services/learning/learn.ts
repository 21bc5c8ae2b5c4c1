/**
 * Learns what images and their objects look like, and cuts the objects out small, from their thumbnails, for whatever in
 * stock it is not known of: what has just come in, what came before it was asked, boxes that were drawn since. One job
 * for all collections, which gives way to any other work.
 */
import { holdsBoxes, imageFeatures } from "@larder/core/learning/image-features";
import type { Pixels } from "@larder/core/learning/features";
import { measuresLength, packMeasures, pictureMeasures } from "@larder/core/learning/measures";
import { sql } from "drizzle-orm";
import { setTimeout as sleep } from "node:timers/promises";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import { db, transaction, type Transaction } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { exists, numberOf, rowsOf } from "../../db/query";
import { collections } from "../../db/schema";
import { announce } from "../../jobs/events";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { addJob } from "../../jobs/queue";
import { decodedThumbnail } from "../../pixels/thumbnail";
import { settings } from "../../settings";
import { keepNewFeatures, rowsWorthKeeping } from "../../snapshot/kept-features";
import { readSource } from "../source-bytes";
import { cutSmall, saveSmallCutouts, type SmallCutout } from "./small-cutouts";

const batchSize = 100;
/** After so many images it is asked whether others want to work. */
const lookUpAfter = 10;
const pauseWhileOthersWork = 300;

export const unlearned = sql`not i.learned and i.removed_at is null`;

/** Puts the job up, unless it is there already. */
export async function addLearning(tx: Transaction): Promise<void> {
  const job = { kind: "learn" as const, subject: 0, collectionId: null, title: "Learning what pictures look like" };
  await addJob({ id: "larder" }, job, tx);
}

/** Puts the job up where there is something to learn. */
export async function startLearning(): Promise<void> {
  if (await exists(db(), sql`select 1 from images i where ${unlearned} limit 1`)) await transaction(addLearning);
}

const waitingSchema = z.object({
  id: z.coerce.number(),
  collection: z.coerce.number(),
  sha256: z.string(),
  width: z.number(),
  height: z.number(),
  revision: z.number(),
  features: z.instanceof(Buffer).nullable(),
  measures: z.instanceof(Buffer).nullable(),
});
type Waiting = z.infer<typeof waitingSchema>;

const boxSchema = z.object({
  id: z.coerce.number(),
  isCut: z.boolean(),
  image: z.coerce.number(),
  x: z.number(),
  y: z.number(),
  width: z.number(),
  height: z.number(),
});
type BoxRow = z.infer<typeof boxSchema>;

async function boxesOf(images: readonly number[]): Promise<Map<number, BoxRow[]>> {
  const rows = await rowsOf(
    db(),
    boxSchema,
    sql`select o.id, c.object_id is not null as "isCut", o.image_id as image, o.x, o.y, o.width, o.height
      from objects o left join small_cutouts c on c.object_id = o.id where o.image_id = any(${numberList(images)})`,
  );
  const boxes = new Map<number, BoxRow[]>(images.map((id) => [id, []]));
  for (const row of rows) boxes.get(row.image)?.push(row);
  return boxes;
}

async function pixelsOf(sha256: string): Promise<Pixels> {
  const store = blobs();
  const bytes = (await store.hasDerived("thumbnails", sha256))
    ? await store.readDerived("thumbnails", sha256)
    : await readSource(sha256);
  return decodedThumbnail(bytes, settings().limits.pixels);
}

/**
 * What was learned of an image: its packed features and what it is like as a whole, where these were not known, and
 * small cut-outs of its objects.
 */
type Learned = { looks: { features: Uint8Array; measures: Uint8Array } | null; cutouts: SmallCutout[] };

/** What is there to be learned of an image; null where all of it is known already, or it cannot be read. */
async function lookAt(image: Waiting, boxes: readonly BoxRow[]): Promise<Learned | null> {
  const { features, measures } = image;
  const uncut = boxes.filter(({ isCut }) => !isCut);
  const isKnown = features !== null && holdsBoxes(features, boxes) && measures?.length === measuresLength;
  if (isKnown && uncut.length === 0) return null;
  try {
    const pixels = await pixelsOf(image.sha256);
    // Cut-outs are encoded while the features are worked out.
    const cutting = cutSmall(pixels, image, uncut);
    const looks = isKnown
      ? null
      : { features: imageFeatures(pixels, image, boxes), measures: packMeasures(pictureMeasures(pixels)) };
    return { looks, cutouts: await cutting };
  } catch {
    return null;
  }
}

type Seen = { image: Waiting; learned: Learned | null };

async function save(tx: Transaction, batch: readonly Seen[]): Promise<void> {
  const fresh = batch.flatMap(({ image, learned }) => (learned?.looks ? [{ image, ...learned.looks }] : []));
  if (fresh.length > 0)
    await tx.execute(sql`
      insert into image_features (image_id, collection_id, features, measures)
      select f.id, f.collection, decode(f.features, 'base64'), decode(f.measures, 'base64') from jsonb_to_recordset(${JSON.stringify(
        fresh.map(({ image, features, measures }) => ({
          id: image.id,
          collection: image.collection,
          features: Buffer.from(features).toString("base64"),
          measures: Buffer.from(measures).toString("base64"),
        })),
      )}::jsonb) as f(id bigint, collection bigint, features text, measures text)
      where exists (select 1 from images i where i.id = f.id)
      on conflict (image_id) do update set features = excluded.features, measures = excluded.measures, made = nextval('image_features_made')`);
  await saveSmallCutouts(
    tx,
    batch.flatMap(({ learned }) => learned?.cutouts ?? []),
  );
  const at = batch.map(({ image }) => ({ id: image.id, revision: image.revision }));
  // One whose labels changed meanwhile is looked at once more.
  await tx.execute(sql`update images i set learned = true from jsonb_to_recordset(${JSON.stringify(at)}::jsonb) as s(id bigint, revision int)
    where i.id = s.id and i.revision = s.revision`);
  for (const collection of new Set(batch.map(({ image }) => image.collection)))
    await announce({ collection, topics: ["features"], revision: null }, tx);
}

const others = sql`select 1 from jobs where kind <> 'learn' and status = 'running' and lease_until > now() limit 1`;

async function learn({ progress, write }: JobContext): Promise<void> {
  const total = await numberOf(db(), sql`select count(*) as n from images i where ${unlearned}`);
  /** Images whose features were not kept as a file yet, by collection. */
  const unkept = new Map<number, number>();
  for (let done = 0; ;) {
    await progress(done, Math.max(done, total));
    while (await exists(db(), others)) {
      await progress(done, Math.max(done, total), "Giving way to other work");
      await sleep(pauseWhileOthersWork);
    }
    const batch = await rowsOf(
      db(),
      waitingSchema,
      sql`select i.id, i.collection_id as collection, i.sha256, i.width, i.height, i.revision, f.features, f.measures
        from images i left join image_features f on f.image_id = i.id
        where ${unlearned} order by i.collection_id, i.id limit ${batchSize}`,
    );
    if (batch.length === 0) break;
    const boxes = await boxesOf(batch.map(({ id }) => id));
    const seen: Seen[] = [];
    for (const image of batch) {
      // What others wait for begins at once, not after a whole batch.
      if (seen.length % lookUpAfter === lookUpAfter - 1 && (await exists(db(), others))) break;
      seen.push({ image, learned: await lookAt(image, boxes.get(image.id) ?? []) });
    }
    await write((tx) => save(tx, seen));
    done += seen.length;
    for (const { image } of seen) unkept.set(image.collection, (unkept.get(image.collection) ?? 0) + 1);
    for (const [collection, images] of unkept)
      if (images >= rowsWorthKeeping) {
        await keepNewFeatures(collection);
        unkept.delete(collection);
      }
  }
  for (const collection of unkept.keys()) await keepNewFeatures(collection);
}

/** Keeps what was learned of each collection and is not kept yet: by a worker that was lost, or before any was kept. */
export async function keepWhatIsLearned(): Promise<void> {
  for (const { id } of await db().select({ id: collections.id }).from(collections)) await keepNewFeatures(id);
}

// What came in while it ended is learned by a job of its own.
export const learnHandler: JobHandler = { run: learn, afterwards: startLearning };
