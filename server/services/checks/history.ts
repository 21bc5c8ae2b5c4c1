/** Stocktakes as they were kept: in numbers, one after the other. */
import { desc, eq } from "drizzle-orm";
import { db, transaction } from "../../db/database";
import { collections, stocktakes } from "../../db/schema";
import { announce } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";
import type { CheckEntry } from "./check-entry";

/** The one that was kept last. */
export async function lastStocktake(collection: number) {
  const [last] = await db()
    .select({ counts: stocktakes.counts, images: stocktakes.images })
    .from(stocktakes)
    .where(eq(stocktakes.collectionId, collection))
    .orderBy(desc(stocktakes.id))
    .limit(1);
  return last;
}

/** A stocktake is kept in numbers where they are other ones than the last time. */
export async function keepNumbers(collection: number, findings: readonly CheckEntry[]): Promise<void> {
  const counts = Object.fromEntries(findings.map(({ key, count }) => [key, count]));
  const [last, [stock]] = await Promise.all([
    lastStocktake(collection),
    db().select({ images: collections.images }).from(collections).where(eq(collections.id, collection)),
  ]);
  const images = stock?.images ?? 0;
  const isSame =
    last?.images === images &&
    Object.keys(last.counts).length === Object.keys(counts).length &&
    Object.entries(counts).every(([key, count]) => last.counts[key] === count);
  if (isSame) return;
  await transaction(async (tx) => {
    await tx.insert(stocktakes).values({ collectionId: collection, images, counts });
    // The line of stations shows the number of the latest.
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}

export type PastStocktake = { at: Date; images: number; counts: Record<string, number> };
const mostPast = 200;

/** The latest stocktakes in numbers, oldest first. */
export async function pastStocktakes(actor: Actor, collection: number): Promise<PastStocktake[]> {
  await allow(actor, "see", { collection });
  const rows = await db()
    .select({ at: stocktakes.at, images: stocktakes.images, counts: stocktakes.counts })
    .from(stocktakes)
    .where(eq(stocktakes.collectionId, collection))
    .orderBy(desc(stocktakes.id))
    .limit(mostPast);
  return rows.reverse();
}
