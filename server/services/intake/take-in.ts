/**
 * The second half of an intake: every file is hashed, decoded, settled and staged, a few side by side; then all of it
 * becomes stock in one transaction. A worker that is lost leaves staged rows, and the next goes on from them.
 */
import { openPicture } from "@larder/core/formats/open-picture";
import { settle } from "@larder/core/formats/settle";
import { shapeArea, shapeBounds } from "@larder/core/geometry/shape";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings, type Finding } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
import { classCode } from "@larder/core/relabel/class-code";
import { and, asc, eq, gt, sql } from "drizzle-orm";
import { blobs, sha256 } from "../../blobs/store";
import { db, type Transaction } from "../../db/database";
import { classes, deliveries, deliveryItems, type StagedObject } from "../../db/schema";
import type { JobContext, JobHandler } from "../../jobs/run";
import { probe } from "../../pixels/probe";
import { thumbnail } from "../../pixels/thumbnail";
import { settings } from "../../settings";
import { removeUnusedBlobs } from "../blob-sweep";
import { openArchive, removeArchive } from "./source";

const batchSize = 128;
export const colourCount = 12;

type Staged = {
  ordinal: number;
  unreadable: string | null;
  sha256: string | null;
  bytes: number | null;
  width: number | null;
  height: number | null;
  orientation: number | null;
  extension: string | null;
  settled_state: string | null;
  objects: StagedObject[] | null;
  findings: Finding[];
};

/** Reads one file and settles its labels; an image that cannot be decoded is staged as such, with its finding. */
async function stage(tree: FileTree, ordinal: number, item: Item): Promise<Staged> {
  const report = new Findings();
  const { pixels } = settings().limits;
  try {
    const bytes = await openPicture(tree, item);
    const { extension, ...facts } = await probe(bytes, pixels);
    const hash = sha256(bytes);
    const store = blobs();
    if (!store.hasDerived("thumbnails", hash)) await store.putDerived("thumbnails", hash, await thumbnail(bytes, pixels));
    await store.put(hash, bytes);
    const settled = settle(item, facts, report);
    const objects = settled.objects.flatMap((object): StagedObject[] => {
      const box = shapeBounds(object.shape);
      return box ? [{ ...object, box: [box.x, box.y, box.width, box.height], area: shapeArea(object.shape) }] : [];
    });
    return { ordinal, unreadable: null, sha256: hash, bytes: bytes.length, ...facts, extension, settled_state: settled.state, objects, findings: report.list() };
  } catch (error) {
    if (!(error instanceof Failure)) throw error;
    report.add("image-unreadable", item.path, error.message);
    return { ordinal, unreadable: error.message, sha256: null, bytes: null, width: null, height: null, orientation: null, extension: null, settled_state: null, objects: null, findings: report.list() };
  }
}

/** Runs `work` over `entries`, at most `atOnce` side by side, in order of their start. */
async function sideBySide<T, R>(entries: readonly T[], atOnce: number, work: (entry: T) => Promise<R>): Promise<R[]> {
  const results = new Array<R>(entries.length);
  let next = 0;
  await Promise.all(
    Array.from({ length: Math.min(atOnce, entries.length) }, async () => {
      while (next < entries.length) {
        const index = next++;
        results[index] = await work(entries[index] as T);
      }
    }),
  );
  return results;
}

async function saveStaged(deliveryId: number, batch: readonly Staged[]): Promise<void> {
  await db().execute(sql`
    update delivery_items d set ready = true, unreadable = s.unreadable, sha256 = s.sha256, bytes = s.bytes, width = s.width, height = s.height,
      orientation = s.orientation, extension = s.extension, settled_state = s.settled_state, objects = s.objects, findings = s.findings
    from jsonb_to_recordset(${JSON.stringify(batch).replaceAll("\\u0000", "")}::jsonb) as s(ordinal int, unreadable text, sha256 text, bytes bigint, width int, height int,
      orientation int, extension text, settled_state text, objects jsonb, findings jsonb)
    where d.delivery_id = ${deliveryId} and d.ordinal = s.ordinal`);
}

async function takeIn({ job, progress }: JobContext): Promise<void> {
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (!delivery || delivery.status === "taken") return;
  await db().update(deliveries).set({ status: "taking", failure: null }).where(eq(deliveries.id, delivery.id));
  const unsafe = new Findings();
  const { tree, close } = await openArchive(delivery.archive, unsafe);
  try {
    const wanted = and(eq(deliveryItems.deliveryId, delivery.id), eq(deliveryItems.leftOut, false));
    const [counts] = await db().select({ total: sql<number>`count(*)::int`, ready: sql<number>`count(*) filter (where ${deliveryItems.ready})::int` }).from(deliveryItems).where(wanted);
    const total = counts?.total ?? 0;
    let done = counts?.ready ?? 0;
    let last = -1;
    for (;;) {
      const batch = await db()
        .select({ ordinal: deliveryItems.ordinal, item: deliveryItems.item })
        .from(deliveryItems)
        .where(and(wanted, eq(deliveryItems.ready, false), gt(deliveryItems.ordinal, last)))
        .orderBy(asc(deliveryItems.ordinal))
        .limit(batchSize);
      if (batch.length === 0) break;
      last = batch[batch.length - 1]?.ordinal ?? last;
      const staged = await sideBySide(batch, settings().imagesAtOnce, async ({ ordinal, item }) => {
        const result = await stage(tree, ordinal, item as Item);
        await progress(++done, total + 1, "Taking in");
        return result;
      });
      await saveStaged(delivery.id, staged);
    }
    await progress(total, total + 1, "Putting it on the shelf");
  } finally {
    close();
  }
  await db().transaction((tx) => shelve(tx, delivery.id, delivery.collectionId));
  // Everything of worth in the archive is in the store now.
  if (delivery.archive) {
    await removeArchive(delivery.archive);
    await db().update(deliveries).set({ archive: null }).where(eq(deliveries.id, delivery.id));
  }
  await removeUnusedBlobs();
}

/** Turns staged rows into stock, within one transaction. Running it for a delivery that is taken does nothing. */
async function shelve(tx: Transaction, deliveryId: number, collectionId: number): Promise<void> {
  // Two deliveries into one collection are shelved one after the other.
  await tx.execute(sql`select id from collections where id = ${collectionId} for update`);
  const [delivery] = await tx.select().from(deliveries).where(eq(deliveries.id, deliveryId)).for("update");
  if (!delivery || delivery.status === "taken" || !delivery.sheet) return;

  const known = await tx.select().from(classes).where(eq(classes.collectionId, collectionId));
  const codes = new Set(known.map((row) => row.code));
  const added: number[] = [];
  let position = known.reduce((highest, row) => Math.max(highest, row.position + 1), 0);
  for (const info of delivery.sheet.classes) {
    if (known.some((row) => row.name === info.name)) continue;
    const code = classCode(info.name, codes);
    codes.add(code);
    const [row] = await tx
      .insert(classes)
      .values({ collectionId, name: info.name, code, colour: position % colourCount, position, keypoints: info.keypoints ?? null, skeleton: info.skeleton ?? null })
      .returning({ id: classes.id });
    if (row) added.push(row.id);
    position++;
  }

  const inserted = await tx.execute<{ objects: number }>(sql`
    with candidates as (
      select distinct on (sha256) * from delivery_items
      where delivery_id = ${deliveryId} and ready and not left_out and sha256 is not null
      order by sha256, ordinal
    )
    insert into images (collection_id, delivery_id, ordinal, sha256, name, bytes, width, height, orientation, extension, split, state, object_count, class_ids, class_counts, image_class_ids, captions, fields)
    select ${collectionId}, delivery_id, ordinal, sha256, path, bytes, width, height, orientation, extension, split, settled_state, jsonb_array_length(objects),
      coalesce((select array_agg(distinct k.id) from classes k where k.collection_id = ${collectionId}
        and (k.name in (select o->>'class' from jsonb_array_elements(c.objects) o) or k.name in (select jsonb_array_elements_text(c.item->'classes')))), '{}'),
      coalesce((select jsonb_object_agg(n.id, n.count) from (select k.id::text as id, count(*) as count from jsonb_array_elements(c.objects) o join classes k on k.collection_id = ${collectionId} and k.name = o->>'class' group by k.id) n), '{}'),
      coalesce((select array_agg(k.id) from classes k where k.collection_id = ${collectionId} and k.name in (select jsonb_array_elements_text(c.item->'classes'))), '{}'),
      item->'captions', item->'fields'
    from candidates c
    order by ordinal
    on conflict (collection_id, sha256) do nothing
    returning object_count as objects`);
  const objectRows = await tx.execute(sql`
    insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape, attributes, flags)
    select i.id, o.nth - 1, k.id, (o.value->'box'->>0)::float8, (o.value->'box'->>1)::float8, (o.value->'box'->>2)::float8, (o.value->'box'->>3)::float8,
      (o.value->>'area')::float8, o.value->'shape', o.value->'attributes', o.value - 'class' - 'shape' - 'attributes' - 'box' - 'area'
    from images i
    join delivery_items d on d.delivery_id = i.delivery_id and d.ordinal = i.ordinal
    cross join lateral jsonb_array_elements(d.objects) with ordinality as o(value, nth)
    join classes k on k.collection_id = ${collectionId} and k.name = o.value->>'class'
    where i.delivery_id = ${deliveryId}
    order by i.ordinal, o.nth`);

  const [counts] = (await tx.execute<{ ready: number; left_out: number; unreadable: number }>(sql`
    select count(*) filter (where sha256 is not null and not left_out)::int as ready, count(*) filter (where left_out)::int as left_out,
      count(*) filter (where unreadable is not null and not left_out)::int as unreadable from delivery_items where delivery_id = ${deliveryId}`)).rows;
  const skipped = (counts?.ready ?? 0) - inserted.rows.length;
  const findings = await finalFindings(tx, deliveryId, delivery.sheet.findings, skipped);
  await tx
    .update(deliveries)
    .set({
      status: "taken",
      takenAt: new Date(),
      findings,
      newClasses: added,
      taken: { images: inserted.rows.length, objects: objectRows.rowCount ?? 0, skipped, leftOut: counts?.left_out ?? 0 },
    })
    .where(eq(deliveries.id, deliveryId));
  await tx.delete(deliveryItems).where(eq(deliveryItems.deliveryId, deliveryId));
}

/** What was foreseen from annotations is replaced by what the files showed; what only reading can tell stays. */
async function finalFindings(tx: Transaction, deliveryId: number, foreseen: readonly Finding[], skipped: number): Promise<Finding[]> {
  const byFiles = new Set(["image-unreadable", "box-outside-image", "size-mismatch", "exif-rotated", "object-duplicate", "image-unlabeled", "image-empty"]);
  const report = new Findings();
  report.merge(foreseen.filter((finding) => !byFiles.has(finding.code) && finding.code !== "shape-degenerate"));
  const staged = await tx.select({ findings: deliveryItems.findings }).from(deliveryItems).where(and(eq(deliveryItems.deliveryId, deliveryId), eq(deliveryItems.leftOut, false), sql`jsonb_array_length(${deliveryItems.findings}) > 0`)).orderBy(asc(deliveryItems.ordinal));
  let degenerate = 0;
  for (const { findings } of staged) {
    report.merge(findings ?? []);
    degenerate += findings?.find((finding) => finding.code === "shape-degenerate")?.count ?? 0;
  }
  // Shapes that the reader itself dropped never reached a file; the larger number is the whole.
  const read = foreseen.find((finding) => finding.code === "shape-degenerate");
  if (read && read.count > degenerate) report.merge([{ ...read, count: read.count - degenerate }]);
  if (skipped > 0) report.add("already-in-stock", "", undefined, skipped);
  return report.list();
}

export const takeInDelivery: JobHandler = {
  run: takeIn,
  async abandon(job, sentence, stopped) {
    // Staged hashes are forgotten, so that bytes only this run brought can be swept; the sheet stays as it was read.
    await db().execute(sql`insert into blob_candidates select distinct sha256 from delivery_items where delivery_id = ${job.subject} and sha256 is not null on conflict do nothing`);
    await db().execute(sql`update delivery_items set ready = false, sha256 = null, objects = null, findings = null where delivery_id = ${job.subject}`);
    await db()
      .update(deliveries)
      .set({ status: "read", failure: stopped ? "Taking in was stopped; stock is as it was before." : sentence })
      .where(sql`${deliveries.id} = ${job.subject} and ${deliveries.status} = 'taking'`);
  },
};

