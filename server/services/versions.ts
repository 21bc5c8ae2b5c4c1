import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { checkedOptions } from "@larder/core/formats/options";
import { Failure } from "@larder/core/model/failure";
import { and, desc, eq, isNotNull, isNull, sql } from "drizzle-orm";
import type { Readable } from "node:stream";
import { z } from "zod";
import { blobs } from "../blobs/store";
import { db, transaction } from "../db/database";
import { packages, versions } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { allow } from "./access";
import type { Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { removeVersion } from "./building/remove-version";
import type { Finding } from "@larder/core/model/finding";
import { addPackage } from "./building/build-version";
import { lossesOf } from "./building/pack";
import { manyOutputs } from "@larder/core/plans/flow";
import { upgradePlan } from "@larder/core/plans/upgrade";
import { ask } from "../snapshot/ask";
import { planRow } from "./plans";
import { resolvePlan } from "./planning/resolve-plan";

export type Version = typeof versions.$inferSelect;
export type Package = typeof packages.$inferSelect;

export const buildSchema = z.object({
  planId: z.number().int(),
  name: z.string().trim().max(80).optional(),
  note: z.string().trim().max(2000).optional(),
  /** Says that very many images are meant. */
  many: z.boolean().optional(),
});

/** Starts building a version of a plan as it stands now. */
export async function startBuild(
  actor: Actor,
  input: z.infer<typeof buildSchema>,
): Promise<{ id: number; job: string }> {
  const collectionId = await allow(actor, "build", { plan: input.planId });
  const plan = await planRow(input.planId);
  const name = input.name || plan.name;
  // What the plan means is frozen: a saved selection may be another one tomorrow.
  const question = await resolvePlan(collectionId, plan.body);
  const { outputs } = await ask("flow", collectionId, question);
  if (outputs > manyOutputs && !input.many)
    throw new Failure(
      "outputs-many",
      `This plan makes up to ${outputs.toLocaleString("en-US")} images. Say once more that so many are meant.`,
      409,
    );
  return transaction(async (tx) => {
    await changed(tx, collectionId, "versions");
    const [row] = await tx
      .insert(versions)
      .values({ collectionId, planId: plan.id, name, note: input.note ?? "", plan: question.plan, createdBy: actor.id })
      .returning({ id: versions.id });
    const id = row?.id as number;
    return {
      id,
      job: await addJob(actor, { kind: "build-version", subject: id, collectionId, title: `Building ${name}` }, tx),
    };
  });
}

export type VersionRow = Version & { packages: Package[] };

/** The versions of a collection, newest first, with their packages; or the selections that were packed as they are. */
export async function versionsOf(
  actor: Actor,
  collectionId: number,
  { selections = false } = {},
): Promise<VersionRow[]> {
  await allow(actor, "see", { collection: collectionId });
  const rows = await db()
    .select()
    .from(versions)
    .where(
      and(
        eq(versions.collectionId, collectionId),
        selections ? isNotNull(versions.selection) : isNull(versions.selection),
      ),
    )
    .orderBy(sql`${versions.number} desc nulls first`, desc(versions.id));
  const packed = await db()
    .select({ pack: packages })
    .from(packages)
    .innerJoin(versions, eq(versions.id, packages.versionId))
    .where(eq(versions.collectionId, collectionId))
    .orderBy(packages.id);
  return rows.map((row) => ({
    ...row,
    plan: upgradePlan(row.plan),
    packages: packed.map(({ pack }) => pack).filter((pack) => pack.versionId === row.id),
  }));
}

/** Packs a frozen version in one more format, or again where packing failed. */
export async function startPackage(
  actor: Actor,
  versionId: number,
  input: { format: string; options?: Record<string, string> | undefined },
): Promise<{ job: string }> {
  await allow(actor, "build", { version: versionId });
  if (!packageFormats.includes(input.format))
    throw new Failure(
      "format-unknown",
      `A package cannot be written as "${input.format}". It can be: ${packageFormats.join(", ")}.`,
    );
  const options = checkedOptions(formatNamed(input.format), input.options ?? {});
  const [version] = await db()
    .select()
    .from(versions)
    .where(and(eq(versions.id, versionId), eq(versions.status, "frozen")));
  if (!version?.number) throw new Failure("version-missing", "There is no such version, or it is not built yet.", 404);
  const number = version.number;
  return transaction(async (tx) => {
    await changed(tx, version.collectionId, "versions");
    const [known] = await tx
      .select()
      .from(packages)
      .where(and(eq(packages.versionId, versionId), eq(packages.format, input.format)));
    if (known && known.status !== "failed")
      throw new Failure("package-there", `v${number} is packed as ${input.format} already.`, 409);
    if (known) await tx.delete(packages).where(eq(packages.id, known.id));
    return { job: await addPackage(tx, version, number, { format: input.format, options }) };
  });
}

/** What a format would lose of a frozen version. */
export async function versionLosses(actor: Actor, versionId: number, format: string): Promise<Finding[]> {
  await allow(actor, "see", { version: versionId });
  const [version] = await db()
    .select()
    .from(versions)
    .where(and(eq(versions.id, versionId), eq(versions.status, "frozen")));
  if (!version?.digest) throw new Failure("version-missing", "There is no such version, or it is not built yet.", 404);
  return lossesOf(version, formatNamed(format));
}

/** Removes a version that failed to build, or a selection that was packed. Frozen versions are never changed. */
export async function dismissFailed(actor: Actor, versionId: number): Promise<void> {
  const collection = await allow(actor, "build", { version: versionId });
  await transaction(async (tx) => {
    await changed(tx, collection, "versions");
    const [version] = await tx.select().from(versions).where(eq(versions.id, versionId));
    if (version?.status !== "failed" && !version?.selection)
      throw new Failure("version-frozen", "Only a version that failed to build can be removed.", 409);
    await removeVersion(tx, versionId);
  });
  await removeUnusedBlobs();
}

/** A package that is ready, for serving its bytes. */
export async function readyPackage(actor: Actor, id: number): Promise<Package & { sha256: string; bytes: number }> {
  await allow(actor, "download", { package: id });
  const [row] = await db().select().from(packages).where(eq(packages.id, id));
  if (!row || row.status !== "ready" || !row.sha256 || row.bytes === null)
    throw new Failure("package-missing", "There is no such package, or it is not packed yet.", 404);
  return { ...row, sha256: row.sha256, bytes: row.bytes };
}

/** The bytes of a package, or a range of them, both ends included. */
export async function packageStream(
  actor: Actor,
  id: number,
  range?: { start: number; end: number },
): Promise<Readable> {
  const { sha256 } = await readyPackage(actor, id);
  return blobs().stream(sha256, range);
}
