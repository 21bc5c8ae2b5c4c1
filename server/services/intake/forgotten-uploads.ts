/** Uploads that were begun and of which nothing is there: of them no row stays. */
import { sql } from "drizzle-orm";
import { z } from "zod";
import { transaction } from "../../db/database";
import { rowsOf } from "../../db/query";
import { addJob } from "../../jobs/queue";
import { larderActor } from "../actor";
import { hasArrived } from "./receive";

/** Unfinished pieces of large files are kept as long; after that nothing can be gone on with. */
export const uploadDays = 7;

const forgottenSchema = z.object({ id: z.coerce.number(), collection: z.coerce.number(), name: z.string() });

/** Puts aside deliveries that have waited `uploadDays` for files and got none. Returns how many. */
export async function putForgottenUploadsAside(now: Date): Promise<number> {
  const before = new Date(now.getTime() - uploadDays * 24 * 3600 * 1000).toISOString();
  return transaction(async (tx) => {
    const waiting = await rowsOf(
      tx,
      forgottenSchema,
      sql`select id, collection_id as collection, name from deliveries
        where status in ('begun', 'arriving') and created_at < ${before}::timestamptz order by id for update`,
    );
    let put = 0;
    for (const { id, collection, name } of waiting) {
      if (await hasArrived(tx, id)) continue;
      await tx.execute(sql`update deliveries set status = 'undoing' where id = ${id}`);
      const title = `Putting ${name} aside`;
      await addJob(larderActor, { kind: "put-aside", subject: id, collectionId: collection, title }, tx);
      put++;
    }
    return put;
  });
}
