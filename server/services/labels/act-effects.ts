/** What acts do beside labels: a class that was merged, a delivery that was undone. */
import { and, eq, inArray, sql } from "drizzle-orm";
import type { Transaction } from "../../db/database";
import { acts, classes, deliveries, sourceFiles, type Act } from "../../db/schema";
import { renameColumn } from "../ledger/declared-columns";
import { setRenaming, type Renaming } from "../classes/rename";
import { workSchema } from "./act-work";

/** What an act that has reached its last image changes beside labels. */
export async function finishAct(tx: Transaction, act: Act): Promise<void> {
  await setInForce(tx, act, true, act.actor);
}

/** Puts an act in or out of force, and with it, the other way round, what it took back. */
async function setInForce(tx: Transaction, act: Act, inForce: boolean, actor: string): Promise<void> {
  if (act.undoes !== null) {
    const [of] = await tx
      .update(acts)
      .set({ undoneBy: inForce ? act.id : null })
      .where(eq(acts.id, act.undoes))
      .returning();
    if (of) await setInForce(tx, of, !inForce, actor);
    return;
  }
  const merger = mergerOf(act);
  if (merger) await setMerger(tx, merger.from, inForce ? merger.into : null);
  const renaming = renamingOf(act);
  if (renaming) await setRenaming(tx, act.collectionId, renaming, inForce);
  const dropped = droppedClassOf(act);
  if (dropped !== null)
    await tx
      .update(classes)
      .set({ removedAt: inForce ? sql`now()` : null })
      .where(eq(classes.id, dropped));
  const attribute = attributeRenamingOf(act);
  if (attribute) await renameColumn(tx, act.collectionId, attribute, inForce);
  if (act.via?.kind === "delivery") await setDeliveryInForce(tx, act.via.id, inForce, actor);
}

/** Which class an act took away; null for every other kind of act. */
function droppedClassOf(act: Act): number | null {
  if (act.kind !== "drop-class") return null;
  const work = workSchema.parse(act.request);
  return work.kind === "request" && work.request.do === "drop-class" ? work.request.class : null;
}

/** Which attribute of images an act gave another name; null for every other kind of act. */
function attributeRenamingOf(act: Act): { from: string; to: string } | null {
  if (act.kind !== "rename-attribute") return null;
  const work = workSchema.parse(act.request);
  return work.kind === "request" && work.request.do === "rename-attribute" ? work.request : null;
}

/** Which class an act merged into which; null for every other kind of act. */
function mergerOf(act: Act): { from: number; into: number } | null {
  if (act.kind !== "merge") return null;
  const work = workSchema.parse(act.request);
  return work.kind === "request" && work.request.do === "merge" ? work.request : null;
}

/** Which class an act gave another name; null for every other kind of act. */
function renamingOf(act: Act): Renaming | null {
  if (act.kind !== "rename") return null;
  const work = workSchema.parse(act.request);
  return work.kind === "rename" ? work : null;
}

async function setMerger(tx: Transaction, from: number, into: number | null): Promise<void> {
  await tx.update(classes).set({ mergedInto: into }).where(eq(classes.id, from));
}

/** An undone delivery stays in the book; classes that came with it and that nothing uses leave the list. */
async function setDeliveryInForce(tx: Transaction, id: number, inForce: boolean, actor: string): Promise<void> {
  const [delivery] = await tx
    .update(deliveries)
    .set(
      inForce
        ? { status: "taken", undoneAt: null, undoneBy: null }
        : { status: "undone", undoneAt: new Date(), undoneBy: actor },
    )
    .where(eq(deliveries.id, id))
    .returning();
  if (!delivery) return;
  if (delivery.newClasses.length > 0)
    await tx
      .update(classes)
      .set({ removedAt: inForce ? null : sql`now()` })
      .where(and(inArray(classes.id, delivery.newClasses), ...(inForce ? [] : [eq(classes.labels, 0)])));
  // What it gave is brought again when its source is scanned again.
  if (!inForce) await tx.delete(sourceFiles).where(eq(sourceFiles.deliveryId, id));
}

/** What holds from the moment on that an act is to be taken back: its delivery is on its way out, its class on its own. */
export async function beginUndo(tx: Transaction, of: Act): Promise<void> {
  if (of.via?.kind === "delivery")
    await tx.update(deliveries).set({ status: "undoing" }).where(eq(deliveries.id, of.via.id));
  const merger = mergerOf(of);
  if (merger) await setMerger(tx, merger.from, null);
}

/** What was set when an act was asked for and holds no longer, now that it is not carried out. */
export async function resetAct(tx: Transaction, act: Act): Promise<void> {
  if (act.undoes === null) return;
  const [of] = await tx.select().from(acts).where(eq(acts.id, act.undoes));
  if (of?.via?.kind === "delivery")
    await tx
      .update(deliveries)
      .set({ status: "taken" })
      .where(and(eq(deliveries.id, of.via.id), eq(deliveries.status, "undoing")));
  const merger = of ? mergerOf(of) : null;
  if (merger) await setMerger(tx, merger.from, merger.into);
}
