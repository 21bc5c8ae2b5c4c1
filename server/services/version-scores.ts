/** Scores of models that were trained on a version, over the versions of a collection. */
import { Failure } from "@larder/core/model/failure";
import { readScores, scoresSchema, type Scores } from "@larder/core/versions/scores";
import { and, asc, eq } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { versions, versionScores } from "../db/schema";
import { changed } from "../jobs/events";
import { allow } from "./access";
import type { Actor } from "./actor";
import { frozenVersion } from "./versions";

/** Typed figures, or a file's text. */
export const newScoresSchema = z
  .object({
    model: z.string().trim().min(1, "Say which model it is.").max(80),
    scores: scoresSchema.optional(),
    text: z.string().max(4_000_000, "A file of scores has 4 MB at most.").optional(),
  })
  .refine(({ scores, text }) => (scores === undefined) !== (text === undefined), "Give figures, or a file.");

export type VersionScore = { id: number; version: number; number: number; model: string; scores: Scores; at: Date };

/** The scores of all versions of a collection, by number. */
export async function scoresOf(actor: Actor, collection: number): Promise<VersionScore[]> {
  await allow(actor, "see", { collection });
  const rows = await db()
    .select({ row: versionScores, number: versions.number })
    .from(versionScores)
    .innerJoin(versions, eq(versions.id, versionScores.versionId))
    .where(eq(versions.collectionId, collection))
    .orderBy(asc(versions.number), asc(versionScores.id));
  return rows.flatMap(({ row: { id, versionId, model, scores, createdAt }, number }) =>
    number === null ? [] : [{ id, version: versionId, number, model, scores, at: createdAt }],
  );
}

/** Adds a model's scores to a version. Throws a Failure where no measure is in them. */
export async function addScores(
  actor: Actor,
  version: number,
  input: z.infer<typeof newScoresSchema>,
): Promise<{ id: number; scores: Scores }> {
  const collection = await allow(actor, "build", { version });
  await frozenVersion(version);
  const scores = input.text === undefined ? (input.scores as Scores) : readScores(input.text);
  if (Object.keys(scores.overall).length + Object.keys(scores.byClass).length === 0)
    throw new Failure("scores-missing", "There is no figure in it.", 422);
  return transaction(async (tx) => {
    await changed(tx, collection, "versions");
    const [row] = await tx
      .insert(versionScores)
      .values({ versionId: version, model: input.model, scores, createdBy: actor.id })
      .returning({ id: versionScores.id });
    return { id: row?.id as number, scores };
  });
}

export async function removeScores(actor: Actor, version: number, id: number): Promise<void> {
  const collection = await allow(actor, "build", { version });
  await transaction(async (tx) => {
    await changed(tx, collection, "versions");
    await tx.delete(versionScores).where(and(eq(versionScores.id, id), eq(versionScores.versionId, version)));
  });
}
