import { formatNamed } from "@larder/core/formats/registry";
import { suitedFormat } from "@larder/core/formats/default-target";
import { Failure } from "@larder/core/model/failure";
import { and, desc, eq, isNotNull, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { packages, versions } from "../db/schema";
import { changed } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { allow } from "./access";
import type { Actor } from "./actor";
import { removeUnusedBlobs } from "./blob-sweep";
import { removeVersion } from "./building/remove-version";
import type { Finding } from "@larder/core/model/finding";
import { lossesOf } from "./building/pack";
import { manyOutputs } from "@larder/core/plans/flow";
import { planSchema } from "@larder/core/plans/plan";
import { upgradePlan } from "@larder/core/plans/upgrade";
import { ask } from "../snapshot/ask";
import { planRow, stockHoldings } from "./plans";
import { refuseClosedGates } from "./checks/gates";
import { resolvePlan } from "./planning/resolve-plan";

export type Version = typeof versions.$inferSelect;

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
  await refuseClosedGates(collectionId, question);
  return begin(actor, { collectionId, planId: plan.id, name, note: input.note ?? "", plan: question.plan });
}

type Begun = Pick<typeof versions.$inferInsert, "collectionId" | "planId" | "name" | "note" | "plan">;

function begin(actor: Actor, version: Begun): Promise<{ id: number; job: string }> {
  const { collectionId, name } = version;
  return transaction(async (tx) => {
    await changed(tx, collectionId, "versions");
    const [row] = await tx
      .insert(versions)
      .values({ ...version, createdBy: actor.id })
      .returning({ id: versions.id });
    const id = row?.id as number;
    return {
      id,
      job: await addJob(actor, { kind: "build-version", subject: id, collectionId, title: `Building ${name}` }, tx),
    };
  });
}

export const rawSchema = z.object({
  name: z.string().trim().min(1).max(80).default("The stock as it stands"),
  note: z.string().trim().max(2000).default(""),
});

/**
 * Freezes the stock as it is: every image byte for byte in the split it has, those without one in train. It is packed in
 * the format that suits it.
 */
export async function startRawVersion(
  actor: Actor,
  collectionId: number,
  input: z.input<typeof rawSchema>,
): Promise<{ id: number; job: string }> {
  await allow(actor, "build", { collection: collectionId });
  const { name, note } = rawSchema.parse(input);
  const plan = planSchema.parse({
    split: { stand: "all", ratio: { train: 100, val: 0, test: 0 } },
    pack: { formats: [suitedFormat(await stockHoldings(db(), collectionId))] },
  });
  return begin(actor, { collectionId, planId: null, name, note, plan });
}

export type VersionRow = Version & { packages: (typeof packages.$inferSelect)[] };

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

/** A frozen version. Whoever calls it has asked `allow`. */
export async function frozenVersion(id: number): Promise<Version & { digest: string }> {
  const [row] = await db()
    .select()
    .from(versions)
    .where(and(eq(versions.id, id), eq(versions.status, "frozen")));
  if (!row?.digest) throw new Failure("version-missing", "There is no such version, or it is not built yet.", 404);
  return { ...row, digest: row.digest };
}

/** What a format would lose of a frozen version. */
export async function versionLosses(actor: Actor, versionId: number, format: string): Promise<Finding[]> {
  await allow(actor, "see", { version: versionId });
  return lossesOf(await frozenVersion(versionId), formatNamed(format));
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
