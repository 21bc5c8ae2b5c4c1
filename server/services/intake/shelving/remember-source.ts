/** What a source's next delivery starts from. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { eq, sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import { intakeSources, type deliveries } from "../../../db/schema";

/** What was decided is proposed for the next delivery from the same source, and what it gave is not brought again. */
export async function rememberSource(
  tx: Transaction,
  delivery: typeof deliveries.$inferSelect,
  choices: IntakeChoices,
): Promise<void> {
  const { sourceId } = delivery;
  if (sourceId === null) return;
  await tx
    .update(intakeSources)
    .set({
      classes: sql`${intakeSources.classes} || ${JSON.stringify(choices.classes)}::jsonb`,
      lastName: delivery.name,
    })
    .where(eq(intakeSources.id, sourceId));
  await tx.execute(sql`
    insert into source_files (source_id, path, stamp, delivery_id)
    select distinct on (path) ${sourceId}::bigint, path, stamp, delivery_id from delivery_items where delivery_id = ${delivery.id} and stamp is not null order by path, ordinal
    on conflict (source_id, path) do update set stamp = excluded.stamp, delivery_id = excluded.delivery_id`);
}
