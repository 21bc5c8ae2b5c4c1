/** One image at the bench: what is said about it, what was done to it step by step, and how long people worked on it. */
import type { Labels } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import { storedStepsSchema } from "@larder/core/labels/stored-step";
import { Failure } from "@larder/core/model/failure";
import type { Size } from "@larder/core/model/item";
import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { images, imageTimes } from "../db/schema";
import { allow } from "./access";
import type { Actor } from "./actor";
import { loadLabels } from "./labels/load-labels";

export type BenchImage = {
  id: number;
  name: string;
  size: Size;
  revision: number;
  labels: Labels;
  /** How long the actor has worked on it so far. */
  seconds: number;
};

/** An image with all that is said about it. Throws a Failure where it is not in stock. */
export async function benchImage(actor: Actor, collection: number, image: number): Promise<BenchImage> {
  await allow(actor, "see", { collection });
  return transaction(async (tx) => {
    const [row] = await tx
      .select({ name: images.name })
      .from(images)
      .where(and(eq(images.id, image), eq(images.collectionId, collection)));
    const standing = row && (await loadLabels(tx, [image], { objects: "whole" })).get(image);
    if (!row || !standing?.labels.present)
      throw new Failure("image-missing", "This image is not in stock any more.", 404);
    const [time] = await tx
      .select({ seconds: imageTimes.seconds })
      .from(imageTimes)
      .where(and(eq(imageTimes.imageId, image), eq(imageTimes.actor, actor.id)));
    return { id: image, name: row.name, ...standing, seconds: time?.seconds ?? 0 };
  });
}

const stepRowSchema = z.object({
  act: z.coerce.number(),
  undoes: z.coerce.number().nullable(),
  steps: storedStepsSchema,
  inverse: storedStepsSchema,
});
export type ImageChange = { act: number; undoes: number | null; steps: Step[]; inverse: Step[] };

export const beforeSchema = z.object({ before: z.coerce.number().int().optional() });
const changesAtOnce = 50;

/** What was done to an image with what takes it back, newest first, of acts before `before` where that is given. */
export async function imageChanges(
  actor: Actor,
  image: number,
  { before }: z.infer<typeof beforeSchema>,
): Promise<ImageChange[]> {
  await allow(actor, "see", { image });
  return rowsOf(
    db(),
    stepRowSchema,
    sql`select a.id as act, a.undoes, s.steps, s.inverse
      from label_steps s join acts a on a.id = s.act_id
      where s.image_id = ${image} and (${before ?? null}::bigint is null or a.id < ${before ?? null}::bigint)
      order by a.id desc limit ${changesAtOnce}`,
  );
}

export const timeSchema = z.object({ seconds: z.number().positive().max(3600) });

/** Adds to the time that somebody has worked on an image; returns all of it, in seconds. */
export async function addTime(actor: Actor, image: number, input: z.infer<typeof timeSchema>): Promise<number> {
  await allow(actor, "label", { image });
  const [row] = await db()
    .insert(imageTimes)
    .values({ imageId: image, actor: actor.id, seconds: input.seconds })
    .onConflictDoUpdate({
      target: [imageTimes.imageId, imageTimes.actor],
      set: { seconds: sql`${imageTimes.seconds} + ${input.seconds}` },
    })
    .returning({ seconds: imageTimes.seconds });
  return row?.seconds ?? 0;
}
