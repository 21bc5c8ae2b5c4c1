/** A snapshot as a plan leaves it: the images that it takes, in their splits, under the labels that they get. */
import { labelStates, splitNames } from "../model/item";
import type { Flow } from "../plans/flow";
import type { Relabeling } from "../relabel/relabeling";
import { Column } from "../columns/column";
import { objectsOfSlot, type SlottedStock } from "./plan-input";
import { objectColumns, type Snapshot, type SnapshotClass } from "./snapshot";

export type OutcomeFlow = Pick<Flow, "assigned" | "classes" | "relabeling">;
/** `slots`: those of the images that stay, ascending. */
export type Outcome = { snapshot: Snapshot; slots: Uint32Array };

const filled = (length: number) => {
  const column = new Column(Uint32Array, length);
  column.length = length;
  return column;
};

/** Classes by their names after relabeling: what is known of one is what was known of the class that became it. */
class OutcomeClasses {
  readonly list: SnapshotClass[];
  private readonly ids: Map<string, number>;

  constructor({ classes }: Snapshot, { classes: names, relabeling }: OutcomeFlow) {
    const origins = new Map<string, SnapshotClass>();
    for (const one of classes)
      for (const name of relabeling.namesOf(one.name)) if (!origins.has(name)) origins.set(name, one);
    const standing = new Map(classes.map((one) => [one.name, one]));
    this.list = names.map((name, n) => {
      const same = standing.get(name);
      if (same) return same;
      // Ids below zero are those of no class in stock.
      return { colour: n, code: "", ...origins.get(name), id: -1 - n, name };
    });
    this.ids = new Map(this.list.map(({ id, name }) => [name, id]));
  }

  idOf(name: string): number {
    return this.ids.get(name) ?? 0;
  }
}

/** What a flow leaves of a stock: before its pictures are cropped, resized and copied. */
export function outcomeOf(snapshot: Snapshot, { slots: stocked, stock }: SlottedStock, flow: OutcomeFlow): Outcome {
  const taken: number[] = [];
  const { length } = snapshot;
  const [present, split] = [new Column(Uint8Array, length), new Column(Uint8Array, length)];
  present.length = split.length = length;
  stock.keys.forEach((key, n) => {
    const to = flow.assigned.get(key);
    if (!to) return;
    const slot = stocked[n] as number;
    taken.push(slot);
    present.set(slot, 1);
    split.set(slot, splitNames.indexOf(to) + 1);
  });
  const slots = Uint32Array.from(taken).sort();
  const classes = new OutcomeClasses(snapshot, flow);
  const labels = relabeledObjects(snapshot, slots, classes, flow.relabeling);
  const kept = Object.fromEntries(
    objectColumns.map((name) => [name, snapshot[name].gather(labels.places)]),
  ) as unknown as Pick<Snapshot, (typeof objectColumns)[number]>;
  const state = snapshot.state.gather(Uint32Array.from({ length }, (_, slot) => slot));
  const { firstObject, objectCount } = labels;
  const outcome = snapshot.relabeled(
    { classes: classes.list, present, split, state, classSet: filled(length), firstObject, objectCount, ...kept },
    flow.relabeling.setsAttributes,
  );
  labels.classIds.forEach((id, at) => outcome.objectClass.set(at, outcome.classIndex(id)));
  for (const [at, said] of labels.attributes) outcome.attributes.set(at, outcome.attributeTexts.codeOf(said));
  for (const slot of slots) {
    const whole = labels.whole.get(slot) ?? [];
    if (whole.length > 0) outcome.classSet.set(slot, outcome.codeOfClasses(whole));
    const had = snapshot.objectCount.at(slot) + snapshot.classSet.at(slot) > 0;
    if (had && whole.length === 0 && objectCount.at(slot) === 0) state.set(slot, labelStates.indexOf("empty"));
  }
  return { snapshot: outcome, slots };
}

type RelabeledObjects = Pick<Snapshot, "firstObject" | "objectCount"> & {
  /** Where the objects that stay stand in the snapshot before, image after image; and the ids of their classes now. */
  places: number[];
  classIds: number[];
  /** What some of them get to say beyond what they said, as JSON. */
  attributes: Map<number, string>;
  /** Ids of image-level classes by slot, where there are some. */
  whole: Map<number, number[]>;
};

function relabeledObjects(
  snapshot: Snapshot,
  slots: Uint32Array,
  classes: OutcomeClasses,
  relabeling: Relabeling,
): RelabeledObjects {
  const names = new Map(snapshot.classes.map(({ id, name }) => [id, name]));
  const nameOf = (index: number) => names.get(snapshot.classIds[index] as number) ?? "";
  const idAfter = (name: string) => {
    const after = relabeling.imageClass(name);
    return after === null ? null : classes.idOf(after);
  };
  const byIndex = snapshot.classIds.map((_, index) => idAfter(nameOf(index)));
  const byClassAlone = !relabeling.looksAtObjects && !relabeling.setsAttributes;
  const [firstObject, objectCount] = [filled(snapshot.length), filled(snapshot.length)];
  const labels: RelabeledObjects = {
    ...{ firstObject, objectCount, places: [], classIds: [] },
    ...{ attributes: new Map(), whole: new Map() },
  };
  for (const slot of slots) {
    const start = labels.places.length;
    firstObject.set(slot, start);
    const set = snapshot.classSet.at(slot);
    const whole = new Set(set === 0 ? [] : snapshot.classesIn(set).flatMap((id) => idAfter(names.get(id) ?? "") ?? []));
    let at = snapshot.firstObject.at(slot);
    const keep = (id: number) => {
      labels.places.push(at);
      labels.classIds.push(id);
    };
    if (byClassAlone)
      for (const last = at + snapshot.objectCount.at(slot); at < last; at++) {
        const id = byIndex[snapshot.objectClass.at(at)] ?? null;
        if (id !== null) keep(id);
      }
    else {
      const size = { width: snapshot.width.at(slot), height: snapshot.height.at(slot) };
      for (const object of objectsOfSlot(snapshot, slot, nameOf)) {
        const becomes = relabeling.counted(object, size);
        if (becomes?.as === "image") whole.add(classes.idOf(becomes.name));
        if (becomes?.as === "object") {
          if (becomes.attribute) {
            const [name, value] = becomes.attribute;
            labels.attributes.set(labels.places.length, JSON.stringify({ ...object.attributes, [name]: value }));
          }
          keep(classes.idOf(becomes.name));
        }
        at++;
      }
    }
    objectCount.set(slot, labels.places.length - start);
    if (whole.size > 0) labels.whole.set(slot, [...whole]);
  }
  return labels;
}
