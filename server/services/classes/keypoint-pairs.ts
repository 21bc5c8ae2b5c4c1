import { Failure } from "@larder/core/model/failure";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { db, transaction } from "../../db/database";
import { classes } from "../../db/schema";
import { changed } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";

const point = z.number().int().min(0).max(999);
export const keypointPairsSchema = z.object({
  /** Keypoints, by number from 0, that take each other's place in a mirror; null leaves it to their names. */
  pairs: z
    .array(z.tuple([point, point]))
    .max(500)
    .nullable(),
});

/** Says which keypoints of a class swap in a mirror. Throws for a point that it does not have, or that is in two pairs. */
export async function setKeypointPairs(
  actor: Actor,
  id: number,
  pairs: z.infer<typeof keypointPairsSchema>["pairs"],
): Promise<void> {
  const collection = await allow(actor, "label", { class: id });
  const [row] = await db().select().from(classes).where(eq(classes.id, id));
  const count = row?.keypoints?.length ?? 0;
  const points = (pairs ?? []).flat();
  if (points.some((number) => number >= count))
    throw new Failure("pairs-invalid", `${row?.name ?? "This class"} has ${count} keypoints, counted from 0.`);
  if (new Set(points).size < points.length)
    throw new Failure("pairs-invalid", "A keypoint can take the place of one other only.");
  await transaction(async (tx) => {
    await changed(tx, collection, "classes");
    await tx.update(classes).set({ pairs }).where(eq(classes.id, id));
  });
}
