/** What was taken in from another collection, to be moved and not copied, leaves that one: into its bin, by an act. */
import { selectionSchema } from "@larder/core/selection/chosen";
import { selecting } from "@larder/core/selection/dimensions";
import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import type { Transaction } from "../../db/database";
import { rowsOf } from "../../db/query";
import { acts, type Delivery } from "../../db/schema";
import { changed } from "../../jobs/events";
import { changeLabels } from "../labels/change-labels";
import { attributesFor } from "../stock/known-attributes";
import { selectionSql } from "../stock/selection-sql";

const batchSize = 1000;

/** Only what the other collection holds by now goes there; what was left out of the delivery stays. */
export async function removeMoved(tx: Transaction, delivery: Delivery, actor: string): Promise<void> {
  const { origin } = delivery;
  if (origin.kind !== "collection" || !origin.move) return;
  const { collection, class: name, selection } = origin;
  const means = selectionSchema.parse(selection ?? { where: selecting({ class: name === null ? [] : [name] }) });
  const attributes = await attributesFor(collection, means.where);
  const revision = await changed(tx, collection, "stock", "classes", "shelf");
  const moved = await rowsOf(
    tx,
    z.object({ id: z.coerce.number() }),
    sql`select i.id from images i where ${selectionSql(collection, means, { image: attributes, object: attributes })}
      and exists (select 1 from images t where t.collection_id = ${delivery.collectionId} and t.sha256 = i.sha256 and t.removed_at is null)
      order by i.id`,
  );
  if (moved.length === 0) return;
  const [row] = await tx
    .insert(acts)
    .values({
      collectionId: collection,
      kind: "remove",
      text: `moved ${moved.length.toLocaleString("en-US")} ${moved.length === 1 ? "image" : "images"} to another collection`,
      actor,
    })
    .returning({ id: acts.id });
  const act = row?.id as number;
  let images = 0;
  for (let at = 0; at < moved.length; at += batchSize) {
    const ids = moved.slice(at, at + batchSize).map(({ id }) => id);
    const done = await changeLabels(
      tx,
      { act, collection, revision },
      ids,
      () => [{ do: "set-presence", present: false }],
      {
        objects: "none",
      },
    );
    images += done.changed;
  }
  await tx.update(acts).set({ status: "done", images }).where(eq(acts.id, act));
}
