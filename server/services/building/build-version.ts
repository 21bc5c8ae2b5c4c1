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
import { eq, sql } from "drizzle-orm";
import { createReadStream, createWriteStream } from "node:fs";
import { rm } from "node:fs/promises";
import { createInterface } from "node:readline";
import { once } from "node:events";
import { finished } from "node:stream/promises";
import { blobs, sha256 } from "../../blobs/store";
import { db } from "../../db/database";
import { packages, versions, type VersionNumbers, type VersionSource } from "../../db/schema";
import { addJob, handOut } from "../../jobs/queue";
import type { JobContext, JobHandler } from "../../jobs/run";
import { render, renderedExtension } from "../../pixels/render";
import { settings } from "../../settings";
import { localActor } from "../actor";
import { readSource } from "../source-bytes";
import { stockRows } from "../stock-rows";
import { outputName } from "@larder/core/versions/output-name";
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
  return { images: 0, objects: 0, bySplit: {}, byClass: {} };
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

/** Writes the manifest to `file` as a stream. The same stock, plan and seed give the same bytes. */
async function writeManifest(
  version: Version,
  file: string,
  progress: (done: number) => Promise<void>,
): Promise<{ digest: string; numbers: VersionNumbers; sources: string[] }> {
  const { collectionId, plan } = version;
  const { rows } = await stockRows(collectionId);
  const { assigned, emptySplits } = runFlow(rows, plan);
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
  const infos = await classInfos(collectionId, plan);
  const header: ManifestHeader = { larder: "manifest 1", classes: infos };
  const digest = new ManifestDigest(header);
  const numbers = emptyNumbers();
  const sources: string[] = [];
  const out = createWriteStream(file);
  out.write(`${canonicalJson(header)}\n`);
  let done = 0;
  for await (const image of labeledImages(collectionId)) {
    const split = assigned.get(image.sha256);
    if (!split) continue;
    sources.push(image.sha256);
    const { sha256: source, width, height, ...said } = image;
    for (const { copy, transform, ...output } of outputsOf(
      { ...said, key: source, size: { width, height } },
      plan,
      split,
      infos,
    )) {
      const name = outputName(image.name, copy, renderedExtension(image.extension, transform));
      const line: ManifestLine = {
        source,
        copy,
        name,
        split,
        transform,
        ...output,
        captions: image.captions,
        fields: image.fields,
      };
      count(numbers, line);
      if (!out.write(`${digest.add(line)}\n`)) await once(out, "drain");
    }
    if (++done % 100 === 0) await progress(done);
  }
  out.end();
  await finished(out);
  return { digest: digest.hex(), numbers, sources };
}

/** Renders what changes and is not in the store yet; a run that was cut short goes on where it was. */
async function renderAll(file: string, total: number, progress: (done: number) => Promise<void>): Promise<void> {
  const store = blobs();
  let done = 0;
  const running = new Set<Promise<void>>();
  let failure: unknown = null;
  for await (const line of manifestLines(createReadStream(file))) {
    if (failure) break;
    const task = (async () => {
      const key = renderKey(line);
      if (!leavesBytes(line.transform) && !store.hasDerived("renders", key)) {
        const extension = line.name.slice(line.name.lastIndexOf(".") + 1);
        await store.putDerived("renders", key, await render(await readSource(line.source), line.transform, extension));
      }
      done++;
      if (done % 5 === 0 || done === total) await progress(done);
    })().catch((error: unknown) => {
      failure ??= error;
    });
    running.add(task);
    void task.finally(() => running.delete(task));
    if (running.size >= settings().imagesAtOnce) await Promise.race(running);
  }
  await Promise.all(running);
  if (failure) throw failure;
}

async function build({ job, progress }: JobContext): Promise<void> {
  const [version] = await db().select().from(versions).where(eq(versions.id, job.subject));
  if (!version || version.status !== "building") return;
  const file = await blobs().scratch();
  try {
    const { digest, numbers, sources } = await writeManifest(version, file, (done) =>
      progress(done, 0, "Writing the manifest"),
    );
    await renderAll(file, numbers.images, (done) => progress(done, numbers.images + 1, "Making the images"));
    await blobs().putFile(digest, file);
    const packing = await db().transaction(async (tx) => {
      await tx.execute(sql`select id from collections where id = ${version.collectionId} for update`);
      const [next] = (
        await tx.execute<{ n: number }>(
          sql`select coalesce(max(number), 0)::int + 1 as n from versions where collection_id = ${version.collectionId}`,
        )
      ).rows;
      const number = next?.n ?? 1;
      const { rows: origins } = await tx.execute<VersionSource>(sql`
        select d.name, count(*)::int as images, d.facts from images i join deliveries d on d.id = i.delivery_id
        where i.collection_id = ${version.collectionId} and i.sha256 in (select jsonb_array_elements_text(${JSON.stringify(sources)}::jsonb)) group by d.id order by d.id`);
      await tx
        .update(versions)
        .set({ status: "frozen", number, digest, numbers, sources: origins, frozenAt: new Date() })
        .where(eq(versions.id, version.id));
      await tx.execute(
        sql`insert into version_sources (version_id, sha256) select ${version.id}, jsonb_array_elements_text(${JSON.stringify(sources)}::jsonb) on conflict do nothing`,
      );
      const jobs: string[] = [];
      for (const format of version.plan.pack.formats) jobs.push(await addPackage(tx, version, number, format));
      return jobs;
    });
    for (const id of packing) await handOut(id);
  } finally {
    await rm(file, { force: true });
  }
}

type Tx = Parameters<Parameters<ReturnType<typeof db>["transaction"]>[0]>[0];

/** Writes down a package and the job that packs it; hand the job out once this is committed. */
export async function addPackage(
  tx: Tx,
  version: Pick<Version, "id" | "collectionId" | "name">,
  number: number,
  format: string,
): Promise<string> {
  const [collection] = (
    await tx.execute<{ name: string }>(sql`select name from collections where id = ${version.collectionId}`)
  ).rows;
  const slug =
    (collection?.name ?? "collection")
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "collection";
  const [row] = await tx
    .insert(packages)
    .values({ versionId: version.id, format, fileName: `${slug}-v${number}-${format}.zip` })
    .returning({ id: packages.id });
  return addJob(
    localActor,
    {
      kind: "pack",
      subject: row?.id as number,
      collectionId: version.collectionId,
      title: `Packing v${number} as ${format}`,
    },
    tx,
  );
}

export const buildVersion: JobHandler = {
  run: build,
  async abandon(job, sentence, stopped) {
    if (stopped)
      await db()
        .delete(versions)
        .where(sql`${versions.id} = ${job.subject} and ${versions.status} = 'building'`);
    else
      await db()
        .update(versions)
        .set({ status: "failed", failure: sentence })
        .where(sql`${versions.id} = ${job.subject} and ${versions.status} = 'building'`);
  },
};
