/** Where each class of a delivery goes in its collection. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { ownEntry } from "@larder/core/model/own-entry";
import { sql } from "drizzle-orm";
import type { Transaction } from "../../../db/database";
import type { IntakeSheet } from "../../../db/schema";
import { ensureClasses } from "../../classes/ensure-classes";

/**
 * Where each incoming class goes, null for the ones left out; classes that are not there are made, in the delivery's
 * order.
 */
export async function matchClasses(
  tx: Transaction,
  collectionId: number,
  incoming: IntakeSheet["classes"],
  decisions: IntakeChoices["classes"],
): Promise<number[]> {
  const targets = incoming.map(({ images: _, objects: __, ...info }) => {
    const decision = ownEntry(decisions, info.name);
    return { info, to: decision === null ? info.name : "to" in decision ? decision.to : null };
  });
  const { ids, added } = await ensureClasses(
    tx,
    collectionId,
    targets.flatMap(({ info, to }) => (to === null ? [] : [{ ...info, name: to }])),
  );
  const matches = targets.map(({ info, to }) => ({ name: info.name, class_id: to === null ? null : ids.get(to) }));
  await tx.execute(
    sql`create temp table incoming_classes on commit drop as select * from jsonb_to_recordset(${JSON.stringify(matches)}::jsonb) as m(name text, class_id bigint)`,
  );
  return added;
}
