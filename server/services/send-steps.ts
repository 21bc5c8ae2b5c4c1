/** Changes of single images, step by step: what a person does at the bench, in the ledger's cells, or by a script. */
import { stepsText } from "@larder/core/labels/describe";
import { collide, stepSchema, type Step } from "@larder/core/labels/step";
import { storedStepsSchema } from "@larder/core/labels/stored-step";
import { Failure } from "@larder/core/model/failure";
import { and, eq, inArray, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { transaction, type Transaction } from "../db/database";
import { numberList } from "../db/array-literal";
import { acts, classes, images, labelSteps } from "../db/schema";
import { changed } from "../jobs/events";
import { allow } from "./access";
import type { Actor } from "./actor";
import { checkAttributes } from "./classes";
import { changeLabels } from "./labels/change-labels";
import { classNamesById } from "./labels/class-names";
import { loadLabels, type StandingLabels } from "./labels/load-labels";

export const stepsSchema = z
  .array(
    z.object({
      image: z.number().int(),
      revision: z.number().int(),
      steps: z.array(stepSchema).min(1).max(10_000),
      /** Of a change of one image alone: sent again under the same key it is done once. */
      key: z.uuid().optional(),
      /** The act that such a change takes back on this image. */
      undoes: z.number().int().optional(),
    }),
  )
  .min(1)
  .max(1000)
  .refine((list) => list.length === 1 || list.every(({ key, undoes }) => key === undefined && undoes === undefined), {
    message: "A key, and what is undone, are said of one image at a time.",
  });

/**
 * Changes images step by step. A change worked out on an older revision is applied where later ones touched other
 * places; else nothing of the call is done, and the labels as they stand come with the refusal.
 */
export async function sendSteps(
  actor: Actor,
  collection: number,
  input: z.input<typeof stepsSchema>,
): Promise<{ act: number; revisions: Record<number, number> }> {
  await allow(actor, "label", { collection });
  const wanted = new Map(stepsSchema.parse(input).map((entry) => [entry.image, entry]));
  const ids = [...wanted.keys()];
  const [{ key, undoes }] = [...wanted.values()] as [z.infer<typeof stepsSchema>[number]];
  return transaction(async (tx) => {
    const revision = await changed(tx, collection, "stock", "classes", "shelf");
    const rows = await tx
      .select({ id: images.id })
      .from(images)
      .where(and(eq(images.collectionId, collection), sql`${images.id} = any(${numberList(ids)})`));
    if (rows.length < ids.length)
      throw new Failure("image-missing", "One of these images is not in this collection.", 404);
    const [earlier] = key === undefined ? [] : await tx.select().from(acts).where(eq(acts.key, key));
    const standing = await loadLabels(tx, ids, { objects: "whole" });
    const revisions = (by: number) => Object.fromEntries([...standing].map(([id, { revision: at }]) => [id, at + by]));
    if (earlier) return { act: earlier.id, revisions: revisions(0) };
    const names = await classNamesById(tx, collection);
    const onDone =
      ids.length === 1 ? stepsText([...wanted.values()][0]?.steps ?? [], (id) => names.get(id) ?? "class") : "";
    const [row] = await tx
      .insert(acts)
      .values({
        collectionId: collection,
        kind: undoes === undefined ? "edit" : "undo",
        text: onDone || `changed ${ids.length} images`,
        actor: actor.id,
        key: key ?? null,
        undoes: undoes === undefined ? null : await actOnImage(tx, ids[0] as number, undoes),
      })
      .returning({ id: acts.id });
    const act = row?.id as number;
    for (const { image, revision: known, steps } of wanted.values())
      await refuseWhereChanged(tx, image, known, standing.get(image), steps);
    await checkClasses(
      tx,
      collection,
      [...wanted.values()].flatMap(({ steps }) => steps),
    );
    for (const { image, steps } of wanted.values())
      await checkAttributes(
        tx,
        collection,
        steps,
        (uid) => standing.get(image)?.labels.objects.find((object) => object.uid === uid)?.class,
      );
    const done = await changeLabels(tx, { act, collection, revision }, ids, (_, id) => wanted.get(id)?.steps ?? [], {
      objects: "whole",
    });
    if (done.left > 0)
      throw new Failure("step-misfit", "The steps do not fit the labels of the image as they stand.", 409);
    await tx.update(acts).set({ status: "done", images: done.changed }).where(eq(acts.id, act));
    if (undoes !== undefined) await setUndone(tx, act, undoes);
    return { act, revisions: revisions(1) };
  });
}

async function refuseWhereChanged(
  tx: Transaction,
  image: number,
  known: number,
  standing: StandingLabels | undefined,
  steps: readonly Step[],
): Promise<void> {
  const now = standing?.revision ?? 0;
  if (known === now) return;
  const later = await tx
    .select({ steps: labelSteps.steps })
    .from(labelSteps)
    .where(and(eq(labelSteps.imageId, image), sql`${labelSteps.revisionBefore} >= ${known}`));
  if (
    known > now ||
    collide(
      steps,
      later.flatMap((row) => storedStepsSchema.parse(row.steps)),
    )
  )
    throw new Failure("changed-since", "Somebody changed the same of this image meanwhile. Look at it again.", 409, {
      image,
      revision: now,
      labels: standing?.labels,
    });
}

/** An act that changed an image, to be taken back there. */
async function actOnImage(tx: Transaction, image: number, act: number): Promise<number> {
  const [row] = await tx
    .select({ act: labelSteps.actId })
    .from(labelSteps)
    .where(and(eq(labelSteps.imageId, image), eq(labelSteps.actId, act)));
  if (!row) throw new Failure("act-missing", "What is to be undone did not change this image.", 404);
  return row.act;
}

const ofOneImage = and(eq(acts.images, 1), inArray(acts.kind, ["edit", "undo"]));

/** An act of this image alone is undone with it; one of many images stays in force for the others. */
async function setUndone(tx: Transaction, act: number, undoes: number): Promise<void> {
  const [of] = await tx
    .update(acts)
    .set({ undoneBy: act })
    .where(and(eq(acts.id, undoes), ofOneImage, isNull(acts.undoneBy)))
    .returning({ id: acts.id, undoes: acts.undoes });
  if (of?.undoes)
    await tx
      .update(acts)
      .set({ undoneBy: null })
      .where(and(eq(acts.id, of.undoes), ofOneImage, eq(acts.undoneBy, of.id)));
}

/** Throws where steps name a class that is gone: of another collection, or merged into another one meanwhile. */
async function checkClasses(tx: Transaction, collection: number, steps: readonly Step[]): Promise<void> {
  const named = new Set(
    steps.flatMap((step) =>
      step.do === "add-object"
        ? [step.object.class]
        : step.do === "set-class" || step.do === "add-class"
          ? [step.class]
          : [],
    ),
  );
  if (named.size === 0) return;
  const rows = await tx
    .select({ id: classes.id, name: classes.name, mergedInto: classes.mergedInto, removedAt: classes.removedAt })
    .from(classes)
    .where(and(eq(classes.collectionId, collection), inArray(classes.id, [...named])));
  if (rows.length < named.size)
    throw new Failure("class-missing", "One of these classes is not in this collection any more.", 409);
  const removed = rows.find(({ removedAt }) => removedAt !== null);
  if (removed)
    throw new Failure("class-missing", `The class ${removed.name} was removed from this collection meanwhile.`, 409);
  const merged = rows.find(({ mergedInto }) => mergedInto !== null);
  if (!merged) return;
  const [into] = await tx
    .select({ name: classes.name })
    .from(classes)
    .where(eq(classes.id, merged.mergedInto as number));
  throw new Failure("class-merged", `${merged.name} was merged into ${into?.name ?? "another class"} meanwhile.`, 409);
}
