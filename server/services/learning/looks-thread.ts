/** The thread that compares what all objects and images of a collection look like. */
import { checkedStockOf } from "@larder/core/checks/checked-stock";
import { compareLooks } from "@larder/core/checks/findings/looks";
import { packLooks } from "@larder/core/checks/looks";
import { steadyRead } from "../../db/database";
import { buildSnapshot } from "../../snapshot/load";
import { loadLearned } from "../../snapshot/load-learned";
import { presentSlots } from "../../snapshot/present-slots";

/** `changed`: when labels had last changed, in epoch milliseconds. */
export type Comparison = { changed: number; learned: number; found: Uint8Array };

/**
 * Compares all of a collection in one state of it.
 * @public The job calls it by its name.
 */
export async function compareCollection(collection: number): Promise<Comparison> {
  const snapshot = await steadyRead(async (_, client) => {
    const built = await buildSnapshot(client, collection);
    await loadLearned(client, collection, built);
    return built;
  });
  const slots = presentSlots(snapshot);
  const looks = compareLooks(checkedStockOf(snapshot, slots, snapshot.learned));
  const changed = slots.reduce((latest, slot) => Math.max(latest, snapshot.changed.at(slot)), 0);
  return { changed, learned: snapshot.learned?.upTo ?? 0, found: packLooks(snapshot, looks) };
}
