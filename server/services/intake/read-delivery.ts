/** The first half of an intake: reads directory and annotations into staging, and says what was understood. No pixel is touched. */
import { looksLikeImage } from "@larder/core/imaging/magic";
import { openPicture } from "@larder/core/formats/open-picture";
import { settle } from "@larder/core/formats/settle";
import { Tally } from "@larder/core/formats/tally";
import type { FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { eq, sql } from "drizzle-orm";
import { BulkCopy } from "../../db/bulk-copy";
import { db, pool } from "../../db/database";
import { deliveries, deliveryItems, type IntakeSheet } from "../../db/schema";
import type { JobContext, JobHandler } from "../../jobs/run";
import { openArchive, understand } from "./source";

/** Above this many pictures the sheet does not look into each file; taking in does. */
const peekLimit = 5000;

/** What annotations alone tell of an item: their own size stands in for the file's. */
function foresee(item: Item, report: Findings): Item {
  if (item.units === "relative") {
    settle(item, { width: 1, height: 1, orientation: 1 }, report);
    return item;
  }
  if (item.declared) return { ...settle(item, { ...item.declared, orientation: 1 }, report), declared: item.declared };
  if (item.state === "unlabeled") report.add("image-unlabeled", item.path);
  if (item.state === "empty") report.add("image-empty", item.path);
  return item;
}

async function readsAsImage(tree: FileTree, item: Item): Promise<boolean> {
  if (item.inside) return looksLikeImage(await openPicture(tree, item));
  for await (const chunk of tree.stream(item.path)) return looksLikeImage(chunk);
  return false;
}

async function read({ job, progress }: JobContext): Promise<void> {
  const began = Date.now();
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (!delivery) return;
  await db().update(deliveries).set({ status: "reading", failure: null }).where(eq(deliveries.id, delivery.id));
  // A run that was cut short has left rows; reading starts again from nothing.
  await db().delete(deliveryItems).where(eq(deliveryItems.deliveryId, delivery.id));
  const report = new Findings();
  const { tree, close } = await openArchive(delivery.archive, report);
  const client = await pool().connect();
  let copy: BulkCopy | null = null;
  try {
    const guesses = await understand(tree, report);
    const best = guesses[0] as (typeof guesses)[number];
    const entries = (await tree.entries()).length;
    await progress(0, entries, `Reading ${best.format.title}`);
    const reading = await best.format.read(tree, {}, report);
    const tally = new Tally(reading.classes);
    await client.query("BEGIN");
    copy = BulkCopy.open(client, "delivery_items", ["delivery_id", "ordinal", "path", "split", "state", "item", "unreadable"]);
    let ordinal = 0;
    const peek = entries <= peekLimit;
    for await (const item of reading.items) {
      if (!item.present) continue;
      const foreseen = foresee(item, report);
      let unreadable: string | null = null;
      if (peek && !(await readsAsImage(tree, item))) {
        unreadable = "it is not an image";
        report.add("image-unreadable", item.path, unreadable);
      } else tally.add(foreseen);
      await copy.add([delivery.id, ordinal, item.path, item.split, foreseen.state, item, unreadable]);
      ordinal++;
      if (ordinal % 50 === 0) await progress(ordinal, Math.max(entries, ordinal));
    }
    await copy.end();
    await client.query("COMMIT");
    for (const [a, b] of lookAlikes(reading.classes.map((info) => info.name))) report.add("class-similar", "", `"${a}" and "${b}"`);
    const sheet: IntakeSheet = {
      format: best.format.name,
      reason: best.reason,
      otherFormats: guesses.slice(1).map((guess) => ({ format: guess.format.name, reason: guess.reason })),
      images: tally.images,
      labeled: tally.labeled,
      empty: tally.empty,
      unlabeled: tally.unlabeled,
      objects: tally.objects,
      splits: tally.splits,
      classes: reading.classes.map((info) => ({ ...info, ...tally.of(info.name) })),
      findings: report.list(),
      seconds: (Date.now() - began) / 1000,
    };
    await db().update(deliveries).set({ status: "read", sheet }).where(eq(deliveries.id, delivery.id));
  } catch (error) {
    await copy?.abort();
    await client.query("ROLLBACK").catch(() => undefined);
    throw error;
  } finally {
    client.release();
    close();
  }
}

export const readDelivery: JobHandler = {
  run: read,
  async abandon(job, sentence, stopped) {
    await db().delete(deliveryItems).where(eq(deliveryItems.deliveryId, job.subject));
    await db()
      .update(deliveries)
      .set({ status: "failed", failure: stopped ? "Reading was stopped. It can be read again." : sentence })
      .where(sql`${deliveries.id} = ${job.subject} and ${deliveries.status} <> 'taken'`);
  },
};

