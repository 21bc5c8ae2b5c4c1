import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { rowOf, rowsOf } from "../../db/query";
import { acts, type Delivery } from "../../db/schema";
import { undoSteps } from "../labels/undo-steps";

/** What undoing a delivery would do, said before it is done. */
export type UndoForecast = {
  /** Images that go. */
  images: number;
  /** Of these, how many had their labels changed after they came: the changes go with them. */
  imagesChangedSince: number;
  /** Images of other deliveries that get their former labels back. */
  restored: number;
  /** Images of other deliveries whose labels were changed again since in the same place: these stay as they are now. */
  keptAsTheyAre: number;
};

/** The act by which a delivery was taken in; null where it was not. */
export async function takeInAct(deliveryId: number): Promise<number | null> {
  const [act] = await db()
    .select({ id: acts.id })
    .from(acts)
    .where(
      sql`${eq(acts.kind, "take-in")} and ${acts.via} @> ${JSON.stringify({ kind: "delivery", id: deliveryId })}::jsonb`,
    );
  return act?.id ?? null;
}

const countsSchema = z.object({ images: z.number(), changed: z.number() });
const idSchema = z.object({ id: z.coerce.number() });
const pageSize = 1000;

/** Works out what undoing a delivery would do, image by image, without doing it. */
export async function undoForecast(delivery: Delivery): Promise<UndoForecast> {
  const counts = await rowOf(
    db(),
    countsSchema,
    sql`select count(*)::int as images, count(*) filter (where labels_at > created_at)::int as changed
      from images where delivery_id = ${delivery.id} and removed_at is null`,
  );
  const forecast = {
    images: counts?.images ?? 0,
    imagesChangedSince: counts?.changed ?? 0,
    restored: 0,
    keptAsTheyAre: 0,
  };
  const act = await takeInAct(delivery.id);
  if (act === null) return forecast;
  for (let last = 0; ;) {
    // Arrivals aside: those have no labels to give back.
    const page = await rowsOf(
      db(),
      idSchema,
      sql`select image_id as id from label_steps where act_id = ${act} and revision_before >= 0 and image_id > ${last} order by image_id limit ${pageSize}`,
    );
    const steps = await undoSteps(
      db(),
      act,
      page.map(({ id }) => id),
    );
    for (const inverse of steps.values()) forecast[inverse === null ? "keptAsTheyAre" : "restored"]++;
    if (page.length < pageSize) return forecast;
    last = page.at(-1)?.id ?? last;
  }
}
