/** A delivery that was not taken in goes with all that was sent for it. */
import { eq, sql } from "drizzle-orm";
import { db } from "../../db/database";
import { deliveries } from "../../db/schema";
import { changed } from "../../jobs/events";
import type { JobHandler } from "../../jobs/handler";
import { removeUnusedBlobs } from "../blob-sweep";
import { untilDeliveryRests } from "./delivery-jobs";
import { removeSentFiles } from "./sent-files";

export const putAside: JobHandler = {
  async run({ job, write }) {
    const [delivery] = await db().select().from(deliveries).where(eq(deliveries.id, job.subject));
    if (!delivery || delivery.status !== "undoing") return;
    await untilDeliveryRests(delivery.id);
    await write(async (tx) => {
      await changed(tx, delivery.collectionId, "deliveries");
      await tx.execute(sql`insert into blob_candidates (sha256)
        select sha256 from delivery_items where delivery_id = ${delivery.id} and sha256 is not null
        union select sha256 from delivery_files where delivery_id = ${delivery.id} on conflict do nothing`);
      await tx.delete(deliveries).where(eq(deliveries.id, delivery.id));
    });
    await removeSentFiles(delivery);
  },
  async putBack(tx, job, sentence) {
    if (job.collectionId !== null) await changed(tx, job.collectionId, "deliveries");
    await tx
      .update(deliveries)
      .set({ status: "failed", failure: sentence })
      .where(sql`${deliveries.id} = ${job.subject} and ${deliveries.status} = 'undoing'`);
  },
  async afterwards() {
    await removeUnusedBlobs();
  },
};
