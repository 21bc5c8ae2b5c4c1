/** The light rows of a stock that plans, checks and class counts run over, out of a snapshot. */
import { labelStates, splitNames } from "../model/item";
import type { StockRow } from "../plans/flow";
import type { Snapshot } from "./snapshot";

const noObjects: ReadonlyMap<string, number> = new Map();
const noClasses: readonly string[] = [];

/** The images in stock, ordered by hash, with their objects counted by class name. */
export function stockRows(snapshot: Snapshot): StockRow[] {
  const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
  const nameOf = snapshot.classIds.map((id) => names.get(id) ?? "");
  const rows: StockRow[] = [];
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    const first = snapshot.firstObject.at(slot);
    const count = snapshot.objectCount.at(slot);
    let objects = noObjects;
    if (count > 0) {
      const counted = new Map<string, number>();
      for (let at = first; at < first + count; at++) {
        const name = nameOf[snapshot.objectClass.at(at)] as string;
        counted.set(name, (counted.get(name) ?? 0) + 1);
      }
      objects = counted;
    }
    const classes =
      snapshot.classSet.at(slot) === 0
        ? noClasses
        : snapshot.classesIn(snapshot.classSet.at(slot)).map((id) => names.get(id) ?? "");
    const split = snapshot.split.at(slot);
    rows.push({
      key: snapshot.hashOf(slot),
      delivery: snapshot.deliveryIds[snapshot.delivery.at(slot)] ?? 0,
      split: split === 0 ? null : (splitNames[split - 1] ?? null),
      state: labelStates[snapshot.state.at(slot)] ?? "unlabeled",
      objects,
      classes,
    });
  }
  return rows.sort((a, b) => (a.key < b.key ? -1 : 1));
}
