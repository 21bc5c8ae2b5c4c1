/** A few examples of each class, spread over the stock, and how many deliveries it came with. */
import type { Snapshot } from "./snapshot";

/** A box on an image, in pixels; the whole image where it is a class of images. */
export type ClassExample = { image: number; x: number; y: number; width: number; height: number };
export type ClassSight = { deliveries: number; examples: ClassExample[] };

const mostExamples = 6;

type Sighting = { slot: number; at: number };

/** Keeps a few of many that come one after the other, evenly spread, in one pass: every time it is full, every other goes. */
class Spread {
  readonly kept: Sighting[] = [];
  private every = 1;
  private seen = 0;

  add(sighting: Sighting): void {
    if (this.seen++ % this.every !== 0) return;
    this.kept.push(sighting);
    if (this.kept.length < 2 * mostExamples) return;
    for (let n = this.kept.length - 1; n > 0; n -= 2) this.kept.splice(n, 1);
    this.every *= 2;
  }
}

/** By the ids of classes; those of which nothing is in stock are not among them. */
export function classExamples(snapshot: Snapshot): Map<number, ClassSight> {
  const found = new Map<number, { deliveries: Set<number>; spread: Spread }>();
  const note = (id: number, slot: number, at: number) => {
    const entry = found.get(id) ?? { deliveries: new Set<number>(), spread: new Spread() };
    if (entry.spread.kept.length === 0) found.set(id, entry);
    entry.deliveries.add(snapshot.delivery.at(slot));
    entry.spread.add({ slot, at });
  };
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (snapshot.present.at(slot) === 0) continue;
    const set = snapshot.classSet.at(slot);
    if (set !== 0) for (const id of snapshot.classesIn(set)) note(id, slot, -1);
    const first = snapshot.firstObject.at(slot);
    for (let at = first; at < first + snapshot.objectCount.at(slot); at++)
      note(snapshot.classIds[snapshot.objectClass.at(at)] as number, slot, at);
  }
  return new Map(
    [...found].map(([id, { deliveries, spread }]) => [
      id,
      {
        deliveries: deliveries.size,
        examples: spread.kept.slice(0, mostExamples).map(({ slot, at }) => ({
          image: snapshot.ids.at(slot),
          x: at < 0 ? 0 : snapshot.x.at(at),
          y: at < 0 ? 0 : snapshot.y.at(at),
          width: at < 0 ? snapshot.width.at(slot) : snapshot.boxWidth.at(at),
          height: at < 0 ? snapshot.height.at(slot) : snapshot.boxHeight.at(at),
        })),
      },
    ]),
  );
}
