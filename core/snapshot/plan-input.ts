/** A snapshot as plans run on it. */
import { shapeKinds } from "../selection/fields";
import type { SelectableObject } from "../selection/predicate";
import type { FlowInput } from "../plans/flow";
import type { Plan } from "../plans/plan";
import type { Split } from "../model/item";
import { ownEntry } from "../model/own-entry";
import { lightStockOf, slotsByHash } from "./light-stock-of";
import { attributesOf, failures } from "./matching";
import { takenOf } from "./selection-mask";
import { flagBits, type Snapshot } from "./snapshot";
import type { LightStock } from "../stock/light-stock";

/** The object at a place of the snapshot's columns, as a selection looks at it. */
function objectAt(snapshot: Snapshot, at: number, className: (index: number) => string): SelectableObject {
  const flags = snapshot.flags.at(at);
  const confidence = snapshot.confidence.at(at);
  const code = snapshot.attributes.at(at);
  return {
    class: className(snapshot.objectClass.at(at)),
    x: snapshot.x.at(at),
    y: snapshot.y.at(at),
    width: snapshot.boxWidth.at(at),
    height: snapshot.boxHeight.at(at),
    area: snapshot.area.at(at),
    shape: shapeKinds[snapshot.shape.at(at)] ?? "box",
    confidence: Number.isNaN(confidence) ? undefined : confidence,
    crowd: (flags & flagBits.crowd) !== 0,
    occluded: (flags & flagBits.occluded) !== 0,
    truncated: (flags & flagBits.truncated) !== 0,
    difficult: (flags & flagBits.difficult) !== 0,
    attributes: code > 0 ? snapshot.attributesIn(code) : undefined,
  };
}

/** The objects of the image in a slot, as a selection looks at them; `className` names a class by its index. */
export function* objectsOfSlot(
  snapshot: Snapshot,
  slot: number,
  className: (index: number) => string,
): Generator<SelectableObject> {
  const first = snapshot.firstObject.at(slot);
  const last = first + snapshot.objectCount.at(slot);
  for (let at = first; at < last; at++) yield objectAt(snapshot, at, className);
}

/** The stock of a snapshot with the slot of each of its images. */
export type SlottedStock = { stock: LightStock; slots: Uint32Array; places: Int32Array };

export function slottedStock(snapshot: Snapshot): SlottedStock {
  const slots = slotsByHash(snapshot);
  const places = new Int32Array(snapshot.length).fill(-1);
  slots.forEach((slot, n) => (places[slot] = n));
  return { stock: lightStockOf(snapshot, slots), slots, places };
}

/** What a plan runs on. `like` are the splits of an earlier version, by hash. Throws where its `where` is none. */
export function planInput(
  snapshot: Snapshot,
  { stock, slots, places }: SlottedStock,
  plan: Plan,
  like: ReadonlyMap<string, Split> | null,
): FlowInput {
  const slotOf = (n: number) => slots[n] as number;
  const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
  const className = (index: number) => names.get(snapshot.classIds[index] as number) ?? "";
  const cameras = new Map(snapshot.deliveries.map(({ id, camera }) => [id, camera]));
  const taken = takenOf(snapshot);
  const { where } = plan.select;
  const fails = where.trim() === "" ? null : failures(snapshot, { where, only: null, except: [] });
  return {
    stock,
    facts: {
      name: (n) => snapshot.names[slotOf(n)] as string,
      size: (n) => ({ width: snapshot.width.at(slotOf(n)), height: snapshot.height.at(slotOf(n)) }),
      taken: (n) => taken(slotOf(n)),
      camera: (n) => cameras.get(stock.deliveries[n] as number) ?? "",
      attribute: (n, name) => {
        const code = snapshot.imageAttributes.at(slotOf(n));
        const value = code > 0 ? ownEntry(snapshot.attributesIn(code), name) : null;
        return value === null ? null : [value].flat().join(", ");
      },
      nearCopies: (n) => snapshot.nearCopiesIn(slotOf(n)).map((slot) => places[slot] as number),
    },
    objectsOf: (n) => objectsOfSlot(snapshot, slotOf(n), className),
    classNames: snapshot.classes.map(({ name }) => name),
    attributes: attributesOf(snapshot),
    means: fails === null ? null : (n) => fails[slotOf(n)] === 0,
    like,
  };
}
