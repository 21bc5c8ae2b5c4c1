/** Runs a plan once and freezes what comes out: manifest, digest, rendered images. */
import { Failure } from "@larder/core/model/failure";
import { refuseEmptySplits } from "@larder/core/plans/empty-splits";
import { runFlow, type Flow } from "@larder/core/plans/flow";
import { planSchema } from "@larder/core/plans/plan";
import { Relabeling } from "@larder/core/relabel/relabeling";
import { planInput, slottedStock } from "@larder/core/snapshot/plan-input";
import { ManifestDigest, renderKey, type ManifestHeader } from "@larder/core/versions/manifest";
import { outputContext, versionLines } from "@larder/core/versions/version-lines";
import { countOutput, noNumbers, type VersionNumbers } from "@larder/core/versions/version-numbers";
import { canonicalJson } from "@larder/core/versions/canonical-json";
import { and, eq, sql } from "drizzle-orm";
import { createReadStream } from "node:fs";
import { rm } from "node:fs/promises";
import { blobs } from "../../blobs/store";
import { LineFile } from "../../files/line-file";
import { changed } from "../../jobs/events";
import type pg from "pg";
import { z } from "zod";
import { splitNames, type Split } from "@larder/core/model/item";
import type { Selection } from "@larder/core/selection/chosen";
import { failures } from "@larder/core/snapshot/matching";
import type { Snapshot } from "@larder/core/snapshot/snapshot";
import { db, steadyRead, type Transaction } from "../../db/database";
import { numberOf, rowsOf } from "../../db/query";
import { buildSnapshot } from "../../snapshot/load";
import { loadLearned } from "../../snapshot/load-learned";
import { holdBlobs } from "../../db/blob-lock";
import { removeVersion } from "./remove-version";
import { collections, packages, versions, type VersionSource } from "../../db/schema";
import { addJob } from "../../jobs/queue";
import type { Ending, JobContext, JobHandler } from "../../jobs/handler";
import { renderedExtension } from "../../pixels/render";
import { larderActor } from "../actor";
import { removeUnusedBlobs } from "../blob-sweep";
import { needsLooks, outcomeSentences } from "../checks/outcome-checks";
import { classesOf, keptImages, loadImage } from "../planning/planned-run";
import { resolvePlan } from "../planning/resolve-plan";
import { classInfos, labeledImages } from "./labeled-images";
import { classPictures } from "./class-pictures";
import { RenderingRegister, renderAll, restoreRenderings } from "./renderings";

type Version = typeof versions.$inferSelect;

/** What a version will hold, worked out on one state of the stock. */
type Draft = { flow: Flow; plan: Version["plan"]; origins: VersionSource[]; faults: string[] };

/** So many findings of checks go with a version, the worst. */
const mostFaults = 30;

async function draft(version: Version, tx: Transaction, client: pg.PoolClient): Promise<Draft> {
  const { collectionId, selection } = version;
  const snapshot = await buildSnapshot(client, collectionId);
  const { plan, like } = await resolvePlan(collectionId, version.plan, tx);
  const slotted = slottedStock(snapshot);
  const flow = selection ? packed(snapshot, selection) : runFlow(planInput(snapshot, slotted, plan, like), plan);
  refuseEmptySplits(flow, plan);
  if (needsLooks(snapshot, plan)) snapshot.learned = await loadLearned(client, collectionId, null);
  const faults = await outcomeSentences(collectionId, plan, { snapshot, slotted, flow });
  const origins = await rowsOf(
    tx,
    originSchema,
    sql`select d.name, count(*)::int as images, d.facts from images i join deliveries d on d.id = i.delivery_id
      where i.collection_id = ${collectionId} and i.removed_at is null and i.sha256 = any(${sql.param([...flow.assigned.keys()])}::text[])
      group by d.id order by d.id`,
  );
  return { flow, plan, origins, faults: faults.slice(0, mostFaults) };
}

/** Every image that a selection means, in the split it has; those of none go to train, which every format has. */
function packed(snapshot: Snapshot, selection: Selection): Flow {
  const assigned = new Map<string, Split>();
  failures(snapshot, selection).forEach((failed, slot) => {
    if (failed !== 0) return;
    const split = splitNames[snapshot.split.at(slot) - 1] ?? "train";
    assigned.set(snapshot.hashOf(slot), split);
  });
  const still = planSchema.parse({});
  return {
    steps: [],
    assigned,
    repeats: new Map(),
    emptySplits: [],
    kept: { train: 0, val: 0, test: 0 },
    targets: null,
    together: null,
    leaks: [],
    unchanged: 0,
    outputs: assigned.size,
    needsLabels: false,
    classes: snapshot.classes.map(({ name }) => name),
    left: new Map(),
    relabeling: new Relabeling(still.relabel, { image: [], object: [] }),
    dropped: new Set(),
  };
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

/**
 * Writes the manifest to `file` as a stream, and registers the renderings it names. The same stock, plan and seed give
 * the same bytes.
 */
async function writeManifest(
  version: Version,
  { flow, plan }: Draft,
  file: string,
  tx: Transaction,
  { progress, write }: Pick<JobContext, "progress" | "write">,
): Promise<{ digest: string; numbers: VersionNumbers }> {
  const { collectionId } = version;
  const classes = classesOf(flow, plan, await classInfos(tx, collectionId));
  const { images } = plan.pack;
  const header: ManifestHeader = { larder: "manifest 2", classes, images };
  const digest = new ManifestDigest(header);
  const numbers = noNumbers();
  const register = new RenderingRegister(version.id, write);
  const context = outputContext(
    plan,
    flow,
    classes,
    keptImages((key) => loadImage(tx, collectionId, key)),
  );
  const lines = versionLines(labeledImages(tx, collectionId), {
    plan,
    flow,
    context,
    extensionOf: (kind, recipe) => renderedExtension(kind, recipe, images),
  });
  const out = await LineFile.create(file);
  await out.add(canonicalJson(header));
  let [done, before] = [0, ""];
  for await (const { line } of lines) {
    countOutput(numbers, line);
    if (line.made) await register.add(renderKey(line, images));
    await out.add(digest.add(line));
    if (line.source === before) continue;
    before = line.source;
    if (++done % 100 === 0) await progress(done, flow.assigned.size, "Writing the manifest");
  }
  await register.flush();
  await out.end();
  if (numbers.images === 0) throw new Failure("nothing-to-build", "No image comes out of this plan.");
  return { digest: digest.hex(), numbers };
}

/** A picture that cannot be fetched now is no reason to freeze nothing: the card shows it once it can be. */
function unlessFailure(error: unknown): void {
  if (!(error instanceof Failure)) throw error;
}

async function build({ job, progress, write }: JobContext): Promise<Ending | void> {
  const [version] = await db().select().from(versions).where(eq(versions.id, job.subject));
  if (version?.status === "frozen") return restoreRenderings(version, { progress, write });
  if (!version || version.status !== "building") return;
  const file = await blobs().scratch();
  try {
    const { digest, numbers, origins, faults } = await steadyRead(async (tx, client) => {
      const drafted = await draft(version, tx, client);
      await registerSources(version, [...drafted.flow.assigned.keys()], write);
      const written = await writeManifest(version, drafted, file, tx, { progress, write });
      return { ...written, origins: drafted.origins, faults: drafted.faults };
    });
    await renderAll(version.id, () => createReadStream(file), {
      write,
      progress: (done) => progress(done, numbers.images + 1, "Making the images"),
    });
    await blobs().put(digest, createReadStream(file));
    await classPictures({ digest, rendersDroppedAt: null }).catch(unlessFailure);
    return (tx) => freeze(tx, version.id, { digest, numbers, faults, sources: origins });
  } finally {
    await rm(file, { force: true });
  }
}

/** Gives a version its number and closes it for good; one that is frozen stays as it is. */
async function freeze(
  tx: Transaction,
  id: number,
  result: Pick<typeof versions.$inferInsert, "digest" | "numbers" | "sources" | "faults">,
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
  if (frozen.length > 0)
    for (const { format, options } of version.plan.pack.formats)
      await addPackage(tx, version, number, { format, options, by: version.createdBy });
}

/** Writes down a package and the job that packs it. */
export async function addPackage(
  tx: Transaction,
  version: Pick<Version, "id" | "collectionId" | "name">,
  /** Null where it is a selection that is packed, not a version. */
  number: number | null,
  { format, options = {}, by }: { format: string; options?: Record<string, string>; by: string },
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
    .values({ versionId: version.id, format, options, createdBy: by, fileName: `${slug}-${which}-${format}.zip` })
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
  async putBack(tx, job, sentence, stopped) {
    const [version] = await tx.select().from(versions).where(eq(versions.id, job.subject));
    if (version?.status !== "building") return;
    await changed(tx, version.collectionId, "versions");
    if (stopped) await removeVersion(tx, version.id);
    else await tx.update(versions).set({ status: "failed", failure: sentence }).where(eq(versions.id, version.id));
  },
};
