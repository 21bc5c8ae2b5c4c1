/** Writes a frozen version in one format, reads it back, and keeps it under its hash. */
import type { Format, Options, Outgoing, OutgoingItem } from "@larder/core/formats/format";
import { formatNamed } from "@larder/core/formats/registry";
import { fitItem } from "@larder/core/formats/fit";
import { verifyPackage, writePackage } from "@larder/core/formats/write-package";
import { factLines, noFacts } from "@larder/core/intake/facts";
import { Failure } from "@larder/core/model/failure";
import { Findings, type Finding } from "@larder/core/model/finding";
import { upgradePlan } from "@larder/core/plans/upgrade";
import { cardFiles } from "@larder/core/versions/data-card";
import { reportUnpairedMirrors } from "@larder/core/plans/mirror-findings";
import { renderKey, type ReadLine } from "@larder/core/versions/manifest";
import type { VersionNumbers } from "@larder/core/versions/version-numbers";
import { and, eq, ne } from "drizzle-orm";
import { rm } from "node:fs/promises";
import { blobs } from "../../blobs/store";
import { db } from "../../db/database";
import { changed } from "../../jobs/events";
import { collections, packages, versions, versionSources } from "../../db/schema";
import { hashFile } from "../../files/hash-file";
import { ZipSink } from "../../files/zip-sink";
import { ZipTree } from "../../files/zip-tree";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { removeUnusedBlobs } from "../blob-sweep";
import { readSource } from "../source-bytes";
import { cardOf } from "./card";
import { classPictures } from "./class-pictures";
import { manifestHeader, manifestLines } from "../../blobs/manifest-lines";
import { restoreRenderings } from "./renderings";
import { readAhead } from "../../files/read-ahead";

/** Options that follow from what the version holds. */
export function packOptions(format: Format, numbers: VersionNumbers | null, given: Options = {}): Options {
  return { ...format.surveyed?.({ objects: numbers?.objects ?? 0, imageClasses: 0 }, given), ...given };
}

type SourceNames = ReadonlyMap<string, { path: string; delivery: string }>;

/** What the bytes of a version were called and came with, by their hash. */
async function sourceNames(version: number): Promise<SourceNames> {
  const rows = await db().select().from(versionSources).where(eq(versionSources.versionId, version));
  return new Map(
    rows.flatMap(({ sha256, name, delivery }) =>
      name === null ? [] : [[sha256, { path: name, delivery: delivery ?? "" }] as const],
    ),
  );
}

async function outgoing(
  digest: string,
  known: SourceNames,
  title: string,
  notes: string[],
  onItem: () => Promise<void>,
): Promise<Outgoing> {
  const store = blobs();
  const { classes, images } = await manifestHeader(await store.stream(digest));
  const pixels = (line: ReadLine) =>
    line.made ? store.readDerived("renders", renderKey(line, images)) : readSource(line.source);
  async function* items(): AsyncIterable<OutgoingItem> {
    for await (const { entry: line, bytes } of readAhead(manifestLines(await store.stream(digest)), pixels)) {
      const item: OutgoingItem = {
        path: line.name,
        present: true,
        split: line.split,
        state: line.state,
        units: "pixels",
        declared: line.size,
        size: line.size,
        objects: line.objects,
        classes: line.classes,
        captions: line.captions,
        fields: line.fields,
        ...(line.licence ? { licence: line.licence } : {}),
        origin: { path: line.name, delivery: "", ...known.get(line.source), copy: line.copy },
        open: bytes,
      };
      await onItem();
      yield item;
    }
  }
  return { title, classes, notes, items: items() };
}

/** What `format` will lose of a frozen version, before anything is written. */
export async function lossesOf(
  version: Pick<typeof versions.$inferSelect, "digest" | "numbers">,
  format: Format,
): Promise<Finding[]> {
  const report = new Findings();
  const options = packOptions(format, version.numbers);
  const { items } = await outgoing(version.digest as string, new Map(), "", [], () => Promise.resolve());
  for await (const item of items) fitItem(item, format, options, report);
  return report.list();
}

async function packVersion({ job, progress, write }: JobContext): Promise<void> {
  const [row] = await db()
    .select({ pack: packages, version: versions, collection: collections.name })
    .from(packages)
    .innerJoin(versions, eq(versions.id, packages.versionId))
    .innerJoin(collections, eq(collections.id, versions.collectionId))
    .where(eq(packages.id, job.subject));
  if (!row || row.pack.status === "ready" || !row.version.digest) return;
  const { pack } = row;
  const restored = await restoreRenderings(row.version, { progress, write });
  if (restored) await write(restored);
  const version = { ...row.version, rendersDroppedAt: null };
  const format = formatNamed(pack.format);
  if (!format.write) throw new Failure("format-unknown", `A package cannot be written as "${pack.format}".`);
  const losses = new Findings();
  const total = version.numbers?.images ?? 0;
  let done = 0;
  const title = `${row.collection}${version.number === null ? "" : ` v${version.number}`}: ${version.name}`;
  const file = `${await blobs().scratch()}.zip`;
  const sink = new ZipSink(file);
  try {
    const data = await outgoing(
      version.digest as string,
      await sourceNames(version.id),
      title,
      [
        version.selection
          ? "This is a selection of the stock, packed as it is; it is no version. Images of no split stand in train."
          : `Digest of this version: ${version.digest}`,
        "",
        "Where the images come from:",
        ...version.sources.flatMap(({ name, images, facts }) => factLines(name, images, facts ?? noFacts)),
      ],
      async () => {
        done++;
        if (done % 5 === 0) await progress(done, total + 1, "Packing");
      },
    );
    const plan = upgradePlan(version.plan);
    reportUnpairedMirrors(plan, data.classes, losses);
    const shown = await classPictures(version);
    data.files = ({ pictures }) => {
      const card = { ...cardOf(version, title, shown), training: format.training };
      return cardFiles({ ...card, losses: losses.list().map(({ sentence }) => sentence) }, pictures);
    };
    const options = packOptions(format, version.numbers, pack.options);
    const written = await writePackage(format, data, sink, options, losses);
    const bytes = await sink.finish();
    // Hashed while it is read back; whichever fails first, the other must not count as unheard.
    const hashing = hashFile(file);
    hashing.catch(() => undefined);
    await progress(total, total + 1, "Reading it back");
    const back = await ZipTree.open(
      file,
      { archiveBytes: Infinity, entryBytes: Infinity, ratio: Infinity },
      new Findings(),
    );
    try {
      await verifyPackage(format, back, written, options);
    } finally {
      back.close();
    }
    const sha256 = await hashing;
    await blobs().putFile(sha256, file);
    await write(async (tx) => {
      await changed(tx, version.collectionId, "versions", "shelf");
      await tx
        .update(packages)
        .set({ status: "ready", sha256, bytes, findings: losses.list(), failure: null })
        .where(eq(packages.id, pack.id));
    });
  } catch (error) {
    await sink.discard().catch(() => undefined);
    throw error;
  } finally {
    await rm(file, { force: true });
  }
}

export const pack: JobHandler = {
  run: packVersion,
  async afterwards() {
    await removeUnusedBlobs();
  },
  async putBack(tx, job, sentence, stopped) {
    const open = and(eq(packages.id, job.subject), ne(packages.status, "ready"));
    if (job.collectionId !== null) await changed(tx, job.collectionId, "versions");
    if (stopped) await tx.delete(packages).where(open);
    else await tx.update(packages).set({ status: "failed", failure: sentence }).where(open);
  },
};
