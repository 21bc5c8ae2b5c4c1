/** Runs a plan once and freezes what comes out: manifest, digest, rendered images. */
import { leavesBytes } from "@larder/core/imaging/transform";
import { Failure } from "@larder/core/model/failure";
import { runFlow } from "@larder/core/plans/flow";
import { outputsOf } from "@larder/core/plans/outputs";
import {
  ManifestDigest,
  manifestHeaderSchema,
  manifestLineSchema,
  type ManifestHeader,
  type ManifestLine,
} from "@larder/core/versions/manifest";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { and, eq, sql } from "drizzle-orm";
import { createReadStream, createWriteStream } from "node:fs";
import { rm } from "node:fs/promises";
import { createInterface } from "node:readline";
import { once } from "node:events";
import { finished } from "node:stream/promises";
import { blobs, sha256 } from "../../blobs/store";
import { changed } from "../../jobs/events";
import pLimit from "p-limit";
import type pg from "pg";
import { z } from "zod";
import { splitNames, type Split } from "@larder/core/model/item";
import type { Selection } from "@larder/core/selection/chosen";
import { failures } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { lightStockOf } from "@larder/core/snapshot/light-stock-of";
import { db, steadyRead, type Transaction } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { buildSnapshot } from "../../snapshot/load";
import { holdBlobs } from "../../db/blob-lock";
import { removeVersion } from "./remove-version";
import { collections, packages, versions, type VersionNumbers, type VersionSource } from "../../db/schema";
import { addJob } from "../../jobs/queue";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { render, renderedExtension } from "../../pixels/render";
import { settings } from "../../settings";
import { larderActor } from "../actor";
import { removeUnusedBlobs } from "../blob-sweep";
import { readSource } from "../source-bytes";
import { OutputNames } from "@larder/core/versions/output-names";
import { classInfos, labeledImages } from "./labeled-images";

/** Under which key an output's pixels are kept: its source and all that is done to it. */
export function renderKey(line: Pick<ManifestLine, "source" | "transform">): string {
  return sha256(new TextEncoder().encode(canonicalJson({ source: line.source, transform: line.transform })));
}

/** The lines of a frozen or half-built manifest file, after its header. */
export async function* manifestLines(stream: NodeJS.ReadableStream): AsyncIterable<ManifestLine> {
  let first = true;
  for await (const text of createInterface({ input: stream, crlfDelay: Infinity })) {
    if (first) manifestHeaderSchema.parse(JSON.parse(text));
    else yield manifestLineSchema.parse(JSON.parse(text));
    first = false;
  }
}

type Version = typeof versions.$inferSelect;

function emptyNumbers(): VersionNumbers {
  // A class may be called __proto__: what has no prototype keeps a number under that name too.
  return { images: 0, objects: 0, bySplit: {}, byClass: Object.create(null) as Record<string, number> };
}

function count(numbers: VersionNumbers, line: ManifestLine): void {
  numbers.images++;
  numbers.objects += line.objects.length;
  const split = (numbers.bySplit[line.split] ??= { images: 0, objects: 0 });
  split.images++;
  split.objects += line.objects.length;
  for (const name of [...line.objects.map((object) => object.class), ...line.classes])
    numbers.byClass[name] = (numbers.byClass[name] ?? 0) + 1;
}

/** What a version will hold, worked out on one state of the stock. */
type Draft = { assigned: ReadonlyMap<string, Split>; origins: VersionSource[] };

async function draft(version: Version, tx: Transaction, client: pg.PoolClient): Promise<Draft> {
  const { collectionId, plan, selection } = version;
  const snapshot = await buildSnapshot(client, collectionId);
  const { assigned, emptySplits } = selection ? packed(snapshot, selection) : runFlow(lightStockOf(snapshot), plan);
  if (assigned.size === 0)
    throw new Failure(
      "nothing-to-build",
      "No image comes through this plan. Loosen its selection, or label some images first.",
    );
  if (emptySplits.length > 0)
    throw new Failure(
      "split-empty",
      `${emptySplits.join(" and ")} would hold no image: there are only ${assigned.size} for the splits that were asked for. Add images, or set that share to 0.`,
    );
  const origins = await rowsOf(
    tx,
    originSchema,
    sql`select d.name, count(*)::int as images, d.facts from images i join deliveries d on d.id = i.delivery_id
      where i.collection_id = ${collectionId} and i.removed_at is null and i.sha256 = any(${sql.param([...assigned.keys()])}::text[])
      group by d.id order by d.id`,
  );
  return { assigned, origins };
}

/** Every image that a selection means, in the split it has; those of none go to train, which every format has. */
function packed(snapshot: Snapshot, selection: Selection): { assigned: Map<string, Split>; emptySplits: Split[] } {
  const assigned = new Map<string, Split>();
  failures(snapshot, selection).forEach((failed, slot) => {
    if (failed !== 0) return;
    const split = splitNames[snapshot.split.at(slot) - 1] ?? "train";
    assigned.set(snapshot.hashOf(slot), split);
  });
  return { assigned, emptySplits: [] };
}

const originSchema = z.object({
  name: z.string(),
  images: z.number(),
  facts: z.custom<VersionSource["facts"]>((value) => typeof value === "object"),
});

/**
 * Registers the bytes that a version needs before anything is made of them: from then on no sweep removes them. Throws
 * where some are gone already, their images deleted for good since the build began.
 */
async function registerSources(version: Version, hashes: readonly string[], write: JobContext["write"]): Promise<void> {
  await write(async (tx) => {
    await holdBlobs(tx);
    await tx.execute(
      sql`insert into version_sources (version_id, sha256, name, delivery)
        select ${version.id}::bigint, h.sha256, i.name, i.delivery from unnest(${sql.param(hashes)}::text[]) as h(sha256)
        left join lateral (select i.name, d.name as delivery from images i join deliveries d on d.id = i.delivery_id
          where i.collection_id = ${version.collectionId} and i.sha256 = h.sha256 order by i.removed_at nulls first limit 1) i on true
        on conflict do nothing`,
    );
  });
  const orphans = await rowsOf(
    db(),
    z.object({ sha256: z.string() }),
    sql`select s.sha256 from version_sources s where s.version_id = ${version.id}
      and not exists (select 1 from images i where i.sha256 = s.sha256) and not exists (select 1 from links l where l.sha256 = s.sha256)`,
  );
  for (const { sha256: hash } of orphans)
    if (!(await blobs().has(hash)))
      throw new Failure("stock-changed", "Images were deleted for good while the build began. Build it again.", 409);
}

const rendersAtOnce = 500;

/**
 * Writes the manifest to `file` as a stream, and registers the renderings it names. The same stock, plan and seed give
 * the same bytes.
 */
async function writeManifest(
  version: Version,
  { assigned }: Draft,
  file: string,
  tx: Transaction,
  { progress, write }: Pick<JobContext, "progress" | "write">,
): Promise<{ digest: string; numbers: VersionNumbers }> {
  const { collectionId, plan } = version;
  const infos = await classInfos(tx, collectionId, plan);
  const header: ManifestHeader = { larder: "manifest 1", classes: infos };
  const digest = new ManifestDigest(header);
  const numbers = emptyNumbers();
  const renders: string[] = [];
  const names = new OutputNames();
  const register = async () => {
    const keys = renders.splice(0);
    await write(async (registering) => {
      await holdBlobs(registering);
      await registering.execute(
        sql`insert into version_renders (version_id, key) select ${version.id}::bigint, unnest(${sql.param(keys)}::text[]) on conflict do nothing`,
      );
    });
  };
  const out = createWriteStream(file);
  out.write(`${canonicalJson(header)}\n`);
  let done = 0;
  for await (const image of labeledImages(tx, collectionId)) {
    const split = assigned.get(image.sha256);
    if (!split) continue;
    const { sha256: source, width, height, ...labels } = image;
    const planned = { ...labels, key: source, size: { width, height } };
    for (const { copy, transform, ...output } of outputsOf(planned, plan, split, infos)) {
      const name = names.claim(image.name, copy, renderedExtension(image.extension, transform));
      const { captions, fields, licence } = image;
      const line: ManifestLine = { source, copy, name, split, transform, ...output, captions, fields };
      if (licence) line.licence = licence;
      count(numbers, line);
      if (!leavesBytes(transform)) renders.push(renderKey(line));
      if (!out.write(`${digest.add(line)}\n`)) await once(out, "drain");
    }
    if (renders.length >= rendersAtOnce) await register();
    if (++done % 100 === 0) await progress(done, assigned.size, "Writing the manifest");
  }
  if (renders.length > 0) await register();
  out.end();
  await finished(out);
  return { digest: digest.hex(), numbers };
}

/** Lines read ahead for each that is worked on. */
const linesAhead = 2;

/** Renders what changes and is not in the store yet; a run that was cut short goes on where it was. */
async function renderAll(file: string, total: number, progress: (done: number) => Promise<void>): Promise<void> {
  const store = blobs();
  const atOnce = settings().imagesAtOnce;
  const limit = pLimit(atOnce);
  let done = 0;
  const one = async (line: ManifestLine) => {
    const key = renderKey(line);
    if (!leavesBytes(line.transform) && !(await store.hasDerived("renders", key))) {
      const extension = line.name.slice(line.name.lastIndexOf(".") + 1);
      await store.putDerived("renders", key, await render(await readSource(line.source), line.transform, extension));
    }
    done++;
    if (done % 5 === 0 || done === total) await progress(done);
  };
  // A few lines ahead of the work, so that no hand waits for another: a version of any size is never held whole.
  const underWay = new Set<Promise<void>>();
  const failures: unknown[] = [];
  const make = async (line: ManifestLine) => {
    if (failures.length > 0) return;
    await one(line).catch((error: unknown) => failures.push(error));
  };
  for await (const line of manifestLines(createReadStream(file))) {
    const made: Promise<void> = limit(make, line).finally(() => underWay.delete(made));
    underWay.add(made);
    if (underWay.size >= atOnce * linesAhead) await Promise.race(underWay);
    if (failures.length > 0) break;
  }
  await Promise.all(underWay);
  if (failures.length > 0) throw failures[0];
}

async function build({ job, progress, write }: JobContext): Promise<void> {
  const [version] = await db().select().from(versions).where(eq(versions.id, job.subject));
  if (!version || version.status !== "building") return;
  const file = await blobs().scratch();
  try {
    const { digest, numbers, origins } = await steadyRead(async (tx, client) => {
      const drafted = await draft(version, tx, client);
      await registerSources(version, [...drafted.assigned.keys()], write);
      return { ...(await writeManifest(version, drafted, file, tx, { progress, write })), origins: drafted.origins };
    });
    await renderAll(file, numbers.images, (done) => progress(done, numbers.images + 1, "Making the images"));
    await blobs().put(digest, createReadStream(file));
    await write((tx) => freeze(tx, version.id, { digest, numbers, sources: origins }));
  } finally {
    await rm(file, { force: true });
  }
}

/** Gives a version its number and closes it for good; one that is frozen stays as it is. */
async function freeze(
  tx: Transaction,
  id: number,
  result: Pick<typeof versions.$inferInsert, "digest" | "numbers" | "sources">,
): Promise<void> {
  const [version] = await tx.select().from(versions).where(eq(versions.id, id));
  if (!version) return;
  await changed(tx, version.collectionId, "versions", "plans", "shelf");
  const number = version.selection
    ? null
    : await numberOf(
        tx,
        sql`select coalesce(max(number), 0) + 1 as n from versions where collection_id = ${version.collectionId}`,
      );
  const frozen = await tx
    .update(versions)
    .set({ ...result, status: "frozen", number, frozenAt: new Date() })
    .where(and(eq(versions.id, id), eq(versions.status, "building")))
    .returning({ id: versions.id });
  if (frozen.length > 0) for (const format of version.plan.pack.formats) await addPackage(tx, version, number, format);
}

/** Writes down a package and the job that packs it. */
export async function addPackage(
  tx: Transaction,
  version: Pick<Version, "id" | "collectionId" | "name">,
  /** Null where it is a selection that is packed, not a version. */
  number: number | null,
  format: string,
): Promise<string> {
  const [collection] = await tx
    .select({ name: collections.name })
    .from(collections)
    .where(eq(collections.id, version.collectionId));
  const slug =
    (collection?.name ?? "collection")
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "collection";
  const which = number === null ? `selection-${version.id}` : `v${number}`;
  const [row] = await tx
    .insert(packages)
    .values({ versionId: version.id, format, fileName: `${slug}-${which}-${format}.zip` })
    .returning({ id: packages.id });
  const title = `Packing ${number === null ? version.name : which} as ${format}`;
  return addJob(
    larderActor,
    { kind: "pack", subject: row?.id as number, collectionId: version.collectionId, title },
    tx,
  );
}

export const buildVersion: JobHandler = {
  run: build,
  async afterwards() {
    await removeUnusedBlobs();
  },
  async abandon({ job, write }, sentence, stopped) {
    await write(async (tx) => {
      const [version] = await tx.select().from(versions).where(eq(versions.id, job.subject));
      if (version?.status !== "building") return;
      await changed(tx, version.collectionId, "versions");
      if (stopped) await removeVersion(tx, version.id);
      else await tx.update(versions).set({ status: "failed", failure: sentence }).where(eq(versions.id, version.id));
    });
  },
};
