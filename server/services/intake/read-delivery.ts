/**
 * The first half of an intake: reads directory and annotations into staging, and says what was understood. No pixel is
 * touched.
 */
import { folderClasses } from "@larder/core/formats/class-folders/index";
import { withKeepableNames } from "@larder/core/formats/keepable-names";
import { openPicture } from "@larder/core/formats/open-picture";
import { RecordingTree } from "@larder/core/formats/recording-tree";
import { settle } from "@larder/core/formats/settle";
import { Tally } from "@larder/core/formats/tally";
import { reportUntakenFiles } from "@larder/core/imaging/untaken-kinds";
import { looksLikeImage } from "@larder/core/imaging/magic";
import type { IntakeChoices } from "@larder/core/intake/choices";
import { baseName, isImagePath, type FileTree } from "@larder/core/model/file-tree";
import { Findings } from "@larder/core/model/finding";
import type { ClassInfo, Item } from "@larder/core/model/item";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { and, eq, inArray, sql } from "drizzle-orm";
import { createHash } from "node:crypto";
import { existsSync } from "node:fs";
import { BulkCopy } from "../../db/bulk-copy";
import { changed } from "../../jobs/events";
import { db, type Transaction } from "../../db/database";
import { classes, deliveries, deliveryItems, sourceFiles, type IntakeSheet } from "../../db/schema";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import type { Delivery } from "../../db/schema";
import { addLookInto } from "./look-into";
import { packItem } from "./staged-item";
import { uploadFolder } from "./sent-files";
import { choicesOf } from "./open-delivery";
import { nameCandidates } from "../name-candidates";
import { openOrigin, withWords, type OpenedOrigin } from "./origin";
import { understand } from "./understand";
import { unpackGzips } from "./uploaded-files";

/** Above this many pictures the sheet does not look into each file; looking into them comes right after. */
const peekLimit = 5000;
const namesKept = 200;

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

/** The stamps under which a source's pictures were taken in before, by path. */
async function stampsTaken(delivery: Delivery): Promise<Map<string, string>> {
  if (delivery.sourceId === null) return new Map();
  const rows = await db()
    .select({ path: sourceFiles.path, stamp: sourceFiles.stamp })
    .from(sourceFiles)
    .where(eq(sourceFiles.sourceId, delivery.sourceId));
  return new Map(rows.map(({ path, stamp }) => [path, stamp]));
}

/** Changes with the picture's file and with what is said about it; null for sources that are not scanned again. */
function stampOf(opened: OpenedOrigin, item: Item): string | null {
  const file = opened.stampOf(item.inside?.file ?? item.path);
  return file === null
    ? null
    : createHash("sha256").update(file).update("\n").update(JSON.stringify(item)).digest("hex");
}

/** Files that come along to be read by people; none of them is an annotation nobody understood. */
const accompanying = /^(readme|licen[cs]e|citation|changelog)\b/i;

/**
 * Adds image-level classes that do not come from annotations: the folder's name where it names a class, and the
 * delivery's own.
 */
function furtherClasses(choices: IntakeChoices, named: ReadonlyMap<string, string>, known: ReadonlySet<string>) {
  return (item: Item): { item: Item; fromFolder: boolean } => {
    const folder = named.get(item.path);
    const more = [folder !== undefined && known.has(folder) ? folder : null, choices.imageClass].filter(
      (name): name is string => name !== null && !item.classes.includes(name),
    );
    if (more.length === 0) return { item, fromFolder: false };
    return {
      item: { ...item, state: "labeled", classes: [...item.classes, ...new Set(more)] },
      fromFolder: folder !== undefined && more.includes(folder),
    };
  };
}

async function classNamesOf(collectionId: number): Promise<string[]> {
  return (await db().select({ name: classes.name }).from(classes).where(eq(classes.collectionId, collectionId))).map(
    ({ name }) => name,
  );
}

type Counts = { unmatched: IntakeSheet["unmatched"]; unchanged: number; folderClasses: number };

async function read({ job, progress, write }: JobContext): Promise<Ending | void> {
  const began = Date.now();
  const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
  if (!delivery || !["waiting", "reading"].includes(delivery.status)) return;
  await write(async (tx) => {
    await changed(tx, delivery.collectionId, "deliveries");
    await tx
      .update(deliveries)
      .set({ status: "reading", failure: null, looked: null })
      .where(eq(deliveries.id, delivery.id));
    // A run that was cut short has left rows; reading starts again from nothing.
    await forgetStaged(tx, delivery.id);
  });
  const choices = choicesOf(delivery);
  const report = new Findings();
  const sent = uploadFolder(delivery.id);
  if (delivery.origin.kind === "files" && existsSync(sent)) await unpackGzips(sent, report);
  const origin = await openOrigin(delivery, choices, report);
  try {
    const understood = await understand(origin, choices, delivery.collectionId, report);
    const { opened } = understood;
    const tree = new RecordingTree(opened.tree);
    const entries = await tree.entries();
    await progress(0, entries.length, `Reading ${understood.title}`);
    const reading = withKeepableNames(await understood.read(tree), report);
    const infos: ClassInfo[] = [...reading.classes];
    const byFolder: ReadonlyMap<string, string> =
      choices.folderClasses && understood.format !== "class-folders"
        ? folderClasses(entries.map(({ path }) => path))
        : new Map<string, string>();
    const knownNames = new Set([
      ...infos.map(({ name }) => name),
      ...(byFolder.size > 0 ? await classNamesOf(delivery.collectionId) : []),
    ]);
    const addClasses = furtherClasses(choices, byFolder, knownNames);
    const stamps = await stampsTaken(delivery);
    const tally = new Tally(infos);
    const counts: Counts = { unmatched: { count: 0, names: [] }, unchanged: 0, folderClasses: 0 };
    const columns = [
      "delivery_id",
      "ordinal",
      "path",
      "split",
      "state",
      "item",
      "unreadable",
      "findings",
      "stamp",
      "link",
    ];
    let ordinal = 0;
    const peek =
      entries.length <= peekLimit && delivery.origin.kind !== "addresses" && delivery.origin.kind !== "bucket";
    const stage = async (copy: BulkCopy) => {
      for await (const row of reading.items) {
        if (!row.present) {
          counts.unmatched.count++;
          if (counts.unmatched.names.length < namesKept) counts.unmatched.names.push(row.path);
          continue;
        }
        if (opened.onlyLabeled && row.state === "unlabeled") continue;
        const { item, fromFolder } = addClasses(await withWords(opened, row));
        const stamp = stampOf(opened, item);
        if (stamp !== null && stamps.get(item.path) === stamp) {
          counts.unchanged++;
          continue;
        }
        if (fromFolder) counts.folderClasses++;
        const foreseenFindings = new Findings();
        const foreseen = foresee(item, foreseenFindings);
        let unreadable: string | null = null;
        if (peek && !(await readsAsImage(opened.tree, item))) {
          unreadable = "it is not an image";
          report.add("image-unreadable", item.path, unreadable);
        } else {
          tally.add(foreseen);
          report.merge(foreseenFindings.list());
        }
        await copy.add([
          delivery.id,
          ordinal,
          item.path,
          item.split,
          foreseen.state,
          packItem(item),
          unreadable,
          foreseenFindings.list(),
          stamp,
          opened.linkOf(item.path),
        ]);
        ordinal++;
        if (ordinal % 50 === 0) await progress(ordinal, Math.max(entries.length, ordinal));
      }
    };
    await write(async (_, client) => {
      const copy = BulkCopy.open(client, "delivery_items", columns);
      try {
        await stage(copy);
        await copy.end();
      } catch (error) {
        await copy.abort();
        throw error;
      }
    });
    const infoOf = new Map(infos.map((info) => [info.name, info]));
    const counted = tally.classes().map((row) => ({ ...infoOf.get(row.name), ...row }));
    for (const [a, b] of lookAlikes(counted.map(({ name }) => name)))
      report.add("class-similar", "", `"${a}" and "${b}"`);
    const annotations = entries
      .map(({ path }) => path)
      .filter((path) => !isImagePath(path) && !accompanying.test(baseName(path)));
    reportUntakenFiles(annotations, report);
    const unused = annotations.filter((path) => !tree.used.has(path));
    const sheet: IntakeSheet = {
      format: understood.format,
      reason: understood.reason,
      otherFormats: understood.others,
      images: tally.images,
      labeled: tally.labeled,
      empty: tally.empty,
      unlabeled: tally.unlabeled,
      objects: tally.objects,
      splits: tally.splits,
      classes: counted,
      ...counts,
      files: {
        used: tree.used.size,
        usedNames: [...tree.used].slice(0, namesKept),
        unused: unused.length,
        unusedNames: unused.slice(0, namesKept),
      },
      againstStock: opened.onlyLabeled,
      readAt: new Date().toISOString(),
      findings: report.list(),
      seconds: (Date.now() - began) / 1000,
    };
    const isEmpty = ordinal === 0;
    return async (tx) => {
      await changed(tx, delivery.collectionId, "deliveries");
      await tx.update(deliveries).set({ status: "read", sheet }).where(eq(deliveries.id, delivery.id));
      if (!isEmpty) await addLookInto(delivery, tx);
    };
  } finally {
    origin.close();
  }
}

/** Empties staging; bytes that only it knew of are named for sweeping. */
async function forgetStaged(tx: Transaction, deliveryId: number): Promise<void> {
  await nameCandidates(
    tx,
    sql`select 'blob', sha256 from delivery_items where delivery_id = ${deliveryId} and sha256 is not null`,
  );
  await tx.delete(deliveryItems).where(eq(deliveryItems.deliveryId, deliveryId));
}

export const readDelivery: JobHandler = {
  run: read,
  async putBack(tx, job, sentence, stopped) {
    if (job.collectionId !== null) await changed(tx, job.collectionId, "deliveries");
    const failed = await tx
      .update(deliveries)
      .set({ status: "failed", failure: stopped ? "Reading was stopped. It can be read again." : sentence })
      .where(and(eq(deliveries.id, job.subject), inArray(deliveries.status, ["waiting", "reading"])))
      .returning({ id: deliveries.id });
    if (failed.length > 0) await forgetStaged(tx, job.subject);
  },
};
