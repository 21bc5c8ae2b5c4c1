/** Every object of the images that a selection means, by group and in an order: what cut-outs show. */
import { stableOrder } from "../columns/stable-order";
import type { Selection } from "../selection/chosen";
import type { CutoutGroup, CutoutOrder } from "./cutout-group";
import { keysOf, membersOf, type Members } from "./cutout-members";
import { groupOfValue } from "./grouped-features";
import { failures } from "./matching";
import { onceARevision } from "./once-a-revision";
import type { Snapshot } from "./snapshot";

export type Cutout = {
  image: number;
  /** Null where it is the whole image. */
  object: number | null;
  /** In pixels of the upright image. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** What it is ordered by; null where that is not known. */
  measure: number | null;
};

export type CutoutPage = { total: number; cutouts: Cutout[] };
export type CutoutGroups = { group: CutoutGroup; count: number }[];

/** Values beyond so many of one attribute are no groups any more. */
const mostValues = 60;

/** The groups that the objects of a selection fall into, with how many there are in each. */
export function cutoutGroups(snapshot: Snapshot, selection: Selection): CutoutGroups {
  const fails = failures(snapshot, selection);
  const classes = new Map<number, number>();
  const imageClasses = new Map<number, number>();
  const byAttributes = new Map<number, number>();
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (fails[slot] !== 0) continue;
    const set = snapshot.classSet.at(slot);
    if (set !== 0) for (const id of snapshot.classesIn(set)) imageClasses.set(id, (imageClasses.get(id) ?? 0) + 1);
    const first = snapshot.firstObject.at(slot);
    for (let at = first; at < first + snapshot.objectCount.at(slot); at++) {
      const id = snapshot.classIds[snapshot.objectClass.at(at)] as number;
      classes.set(id, (classes.get(id) ?? 0) + 1);
      const code = snapshot.attributes.at(at);
      if (code !== 0) byAttributes.set(code, (byAttributes.get(code) ?? 0) + 1);
    }
  }
  const values = new Map<string, Map<string, number>>();
  for (const [code, count] of byAttributes)
    for (const [name, value] of Object.entries(snapshot.attributesIn(code))) {
      const text = groupOfValue(value);
      if (text === null) continue;
      const counts = values.get(name) ?? values.set(name, new Map()).get(name);
      counts?.set(text, (counts.get(text) ?? 0) + count);
    }
  return [
    ...snapshot.classes.flatMap(({ id }): CutoutGroups =>
      classes.has(id) ? [{ group: { of: "class", id }, count: classes.get(id) ?? 0 }] : [],
    ),
    ...snapshot.classes.flatMap(({ id }): CutoutGroups =>
      imageClasses.has(id) ? [{ group: { of: "image-class", id }, count: imageClasses.get(id) ?? 0 }] : [],
    ),
    ...[...values].flatMap(([name, counts]): CutoutGroups =>
      counts.size > mostValues
        ? []
        : [...counts].sort().map(([value, count]) => ({ group: { of: "attribute", name, value }, count })),
    ),
  ];
}

type Asked = { selection: Selection; group: CutoutGroup; by: CutoutOrder; down: boolean };
type Ordered = Members & { keys: Float64Array };
type Kept = { name: string; members: Ordered | null };
const keptOf = onceARevision((): Kept => ({ name: "", members: null }));

/** The members in their order; the last one asked for is kept, since pages of it follow each other. */
function ordered(snapshot: Snapshot, { selection, group, by, down }: Asked): Ordered {
  const name = JSON.stringify([selection, group, by, down, snapshot.learned?.upTo ?? 0]);
  const kept = keptOf(snapshot);
  if (kept.members && kept.name === name) return kept.members;
  const found = membersOf(snapshot, selection, group);
  const keys = keysOf(snapshot, found, group, by);
  const order = stableOrder(keys, down);
  const { length } = order;
  const members = { slots: new Uint32Array(length), objects: new Int32Array(length), keys: new Float64Array(length) };
  for (let place = 0; place < length; place++) {
    const nth = order[place] as number;
    members.slots[place] = found.slots[nth] as number;
    members.objects[place] = found.objects[nth] as number;
    members.keys[place] = keys[nth] as number;
  }
  Object.assign(kept, { name, members } satisfies Kept);
  return members;
}

/** A page of cut-outs; `start` counts from 0. What has no value to order by stands at the end either way. */
export function cutoutsOf(snapshot: Snapshot, asked: Asked & { start: number; limit: number }): CutoutPage {
  const { slots, objects, keys } = ordered(snapshot, asked);
  const { start, limit } = asked;
  return {
    total: slots.length,
    cutouts: Array.from(slots.subarray(start, start + limit), (slot, n) => {
      const [at, key] = [objects[start + n] as number, keys[start + n] as number];
      return {
        image: snapshot.ids.at(slot),
        object: at < 0 ? null : snapshot.objectId.at(at),
        x: at < 0 ? 0 : snapshot.x.at(at),
        y: at < 0 ? 0 : snapshot.y.at(at),
        width: at < 0 ? snapshot.width.at(slot) : snapshot.boxWidth.at(at),
        height: at < 0 ? snapshot.height.at(slot) : snapshot.boxHeight.at(at),
        measure: Number.isNaN(key) ? null : key,
      };
    }),
  };
}
