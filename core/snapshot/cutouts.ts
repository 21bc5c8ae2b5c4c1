/** Every object of the images that a selection means, by group and in an order: what cut-outs show. */
import { z } from "zod";
import type { AttributeValue } from "../model/item";
import type { Selection } from "../selection/chosen";
import { failures } from "./matching";
import type { Snapshot } from "./snapshot";

/** Objects of a class, images that have a class of their own, or objects with a value of an attribute. */
export const cutoutGroupSchema = z.discriminatedUnion("of", [
  z.object({ of: z.literal("class"), id: z.number().int() }),
  z.object({ of: z.literal("image-class"), id: z.number().int() }),
  z.object({ of: z.literal("attribute"), name: z.string(), value: z.string() }),
]);
export type CutoutGroup = z.infer<typeof cutoutGroupSchema>;

/** By size, by distance from the class's centre, by how near another class's centre is, by confidence, by delivery. */
export const cutoutOrders = ["size", "outlying", "other", "confidence", "delivery"] as const;
export type CutoutOrder = (typeof cutoutOrders)[number];

/** Whether an order needs the features of the stock. */
export const orderNeedsLearned = (by: CutoutOrder) => by === "outlying" || by === "other";

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

const valueText = (value: AttributeValue | undefined) =>
  value === undefined || Array.isArray(value) || value === null ? null : String(value);

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
      const text = valueText(value);
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

type Member = { slot: number; at: number; key: number };

/** The members of a group among images that are meant: objects by their place, whole images as -1. */
function membersOf(snapshot: Snapshot, selection: Selection, group: CutoutGroup): Member[] {
  const fails = failures(snapshot, selection);
  const members: Member[] = [];
  const index = group.of === "class" ? snapshot.classIds.indexOf(group.id) : -1;
  for (let slot = 0; slot < snapshot.length; slot++) {
    if (fails[slot] !== 0) continue;
    if (group.of === "image-class") {
      const set = snapshot.classSet.at(slot);
      if (set !== 0 && snapshot.classesIn(set).includes(group.id)) members.push({ slot, at: -1, key: 0 });
      continue;
    }
    const first = snapshot.firstObject.at(slot);
    for (let at = first; at < first + snapshot.objectCount.at(slot); at++)
      if (
        group.of === "class"
          ? snapshot.objectClass.at(at) === index
          : valueText(snapshot.attributesIn(snapshot.attributes.at(at))[group.name]) === group.value
      )
        members.push({ slot, at, key: 0 });
  }
  return members;
}

function keyOf(snapshot: Snapshot, group: CutoutGroup, by: CutoutOrder): (member: Member) => number {
  const { learned } = snapshot;
  switch (by) {
    case "size":
      return ({ slot, at }) =>
        at < 0
          ? snapshot.width.at(slot) * snapshot.height.at(slot)
          : snapshot.boxWidth.at(at) * snapshot.boxHeight.at(at);
    case "outlying": {
      const objects = learned?.objectsFromCentre(snapshot);
      const images = group.of === "image-class" ? learned?.imagesUnlikeTheirClass(snapshot) : undefined;
      return ({ slot, at }) => (at < 0 ? images?.[slot] : objects?.[at]) ?? Number.NaN;
    }
    case "other": {
      const index = group.of === "class" ? snapshot.classIds.indexOf(group.id) : -1;
      const objects = index < 0 ? undefined : learned?.objectsFromOthers(snapshot, index);
      return ({ at }) => objects?.[at] ?? Number.NaN;
    }
    case "confidence":
      return ({ at }) => (at < 0 ? Number.NaN : snapshot.confidence.at(at));
    case "delivery": {
      const order = new Map(snapshot.deliveries.map(({ id }, nth) => [id, nth]));
      return ({ slot }) => order.get(snapshot.deliveryIds[snapshot.delivery.at(slot)] as number) ?? Number.NaN;
    }
  }
}

type Asked = { selection: Selection; group: CutoutGroup; by: CutoutOrder; down: boolean };
type Kept = { revision: number; name: string; members: Member[] };
const keptOf = new WeakMap<Snapshot, Kept>();

/** The members in their order; the last one asked for is kept, since pages of it follow each other. */
function ordered(snapshot: Snapshot, { selection, group, by, down }: Asked): Member[] {
  const name = JSON.stringify([selection, group, by, down, snapshot.learned?.upTo ?? 0]);
  const kept = keptOf.get(snapshot);
  if (kept?.revision === snapshot.revision && kept.name === name) return kept.members;
  const members = membersOf(snapshot, selection, group);
  const key = keyOf(snapshot, group, by);
  for (const member of members) member.key = key(member);
  const sign = down ? -1 : 1;
  members.sort((a, b) => {
    if (Number.isNaN(a.key) || Number.isNaN(b.key))
      return Number(Number.isNaN(a.key)) - Number(Number.isNaN(b.key)) || a.slot - b.slot || a.at - b.at;
    return sign * (a.key - b.key) || a.slot - b.slot || a.at - b.at;
  });
  keptOf.set(snapshot, { revision: snapshot.revision, name, members });
  return members;
}

/** A page of cut-outs; `start` counts from 0. What has no value to order by stands at the end either way. */
export function cutoutsOf(snapshot: Snapshot, asked: Asked & { start: number; limit: number }): CutoutPage {
  const members = ordered(snapshot, asked);
  return {
    total: members.length,
    cutouts: members.slice(asked.start, asked.start + asked.limit).map(({ slot, at, key }) => ({
      image: snapshot.ids.at(slot),
      object: at < 0 ? null : snapshot.objectId.at(at),
      x: at < 0 ? 0 : snapshot.x.at(at),
      y: at < 0 ? 0 : snapshot.y.at(at),
      width: at < 0 ? snapshot.width.at(slot) : snapshot.boxWidth.at(at),
      height: at < 0 ? snapshot.height.at(slot) : snapshot.boxHeight.at(at),
      measure: Number.isNaN(key) ? null : key,
    })),
  };
}
