/**
 * Turns staged rows into stock, within one transaction: classes matched, splits dealt, pictures that are there already
 * treated as was chosen.
 */
import { eq, sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import { acts, deliveries, deliveryItems } from "../../../db/schema";
import { changed } from "../../../jobs/events";
import { noteStockPairs, type NearPair } from "../near-copies";
import { choicesOf } from "../open-delivery";
import { carryOver } from "./carry-over";
import { countIncoming } from "./count-incoming";
import { dealSplits } from "./deal-splits";
import { finalFindings } from "./final-findings";
import { gatherIncoming } from "./gather-incoming";
import { insertNew } from "./insert-new";
import { matchClasses } from "./match-classes";
import { relabelStock } from "./relabel-stock";
import { rememberSource } from "./remember-source";
import { insertAct } from "./shelving-act";

/** How many pictures of a delivery are nearly the same as another. */
function nearIn(pairs: Iterable<NearPair>): number {
  const near = new Set<number>();
  for (const { ordinal } of pairs) near.add(ordinal);
  return near.size;
}

/**
 * Running it for a delivery that is taken does nothing. `nearPairs` says which of its pictures are nearly the same as
 * which others.
 */
export async function shelve(
  tx: Transaction,
  deliveryId: number,
  collectionId: number,
  nearPairs: Iterable<NearPair>,
  actor: string,
): Promise<void> {
  // Two deliveries into one collection are shelved one after the other.
  const revision = await changed(tx, collectionId, "stock", "classes", "shelf", "deliveries");
  const [delivery] = await tx.select().from(deliveries).where(eq(deliveries.id, deliveryId)).for("update");
  if (!delivery || delivery.status === "taken" || !delivery.sheet) return;
  const choices = choicesOf(delivery);
  const added = await matchClasses(tx, collectionId, delivery.sheet.classes, choices.classes);
  await gatherIncoming(tx, deliveryId, collectionId);
  await dealSplits(tx, choices.splits);
  const act = { act: await insertAct(tx, delivery, actor), collection: collectionId, revision };
  const relabeled = await relabelStock(tx, act, choices.sameBytes);
  const inserted = await insertNew(tx, act, deliveryId, choices);
  await carryOver(tx, delivery);
  await noteStockPairs(tx, deliveryId, nearPairs);
  await tx
    .update(acts)
    .set({ status: "done", images: inserted.images + relabeled })
    .where(eq(acts.id, act.act));
  await tx.execute(
    sql`insert into links (sha256, url) select i.sha256, i.link from incoming i where i.link is not null on conflict (sha256) do update set url = excluded.url`,
  );

  const { leftOut, there, again, contradicting } = await countIncoming(tx, deliveryId);
  const findings = await finalFindings(tx, deliveryId, delivery.sheet.findings, {
    there: there - relabeled,
    again,
    relabeled,
    contradicting,
    near: nearIn(nearPairs),
  });
  await rememberSource(tx, delivery, choices);
  await tx
    .update(deliveries)
    .set({
      status: "taken",
      takenAt: new Date(),
      failure: null,
      findings,
      newClasses: added,
      taken: {
        ...inserted,
        skipped: there - relabeled + again,
        leftOut,
        relabeled,
      },
    })
    .where(eq(deliveries.id, deliveryId));
  await tx.delete(deliveryItems).where(eq(deliveryItems.deliveryId, deliveryId));
}
