/** What a check is: a question to the stock with a threshold, answered by findings that name the pictures. */
import type { LabelRequest } from "../labels/request";
import type { Severity } from "../model/finding";
import type { Learned } from "../snapshot/learned";
import type { Snapshot } from "../snapshot/snapshot";
import type { CheckCode } from "./codes";
import type { Looks } from "./looks";
import type { ClassTally } from "./tally";

/** What is looked at: images in stock by their slots, ascending, and the classes counted over them. */
export type CheckedStock = {
  snapshot: Snapshot;
  slots: Uint32Array;
  tallies: readonly ClassTally[];
  /** Null where what pictures look like is not known or not asked for. */
  learned: Learned | null;
  /** What came of comparing looks before, where that takes too long for now; it goes before `learned`. */
  looks?: Looks | null;
  /** What pictures are like as a whole, where that is known. */
  measures?: Learned | null;
};

/** A number that a check goes by; people set it for a collection, within its range. */
export type Threshold = { unit: string; usual: number; least: number; most: number; step: number };

/** An image that proves a finding, with the objects that it is about by their places in the snapshot. */
export type Proof = { slot: number; objects: readonly number[] };

/**
 * What mends a finding: an act on its images, or on the objects it is about; on all of them, or on those images (slots)
 * that are named.
 */
export type Mend = { label: string; slots?: readonly number[] } & (
  | { request: LabelRequest }
  | { removes: "objects" }
  /** The objects get another class, by its id. */
  | { into: number }
);

/** Images that are of no use are taken out of stock, from where they can be put back. */
export const intoTheBin: Mend = { label: "Put them into the bin", request: { do: "remove" } };

export type Found = {
  /** What it is about where a check finds several things: a class, a split. */
  subject: string;
  sentence: string;
  /** How many: what the sentence counts. */
  count: number;
  /** All images that prove it, those that prove it most first. */
  proofs: readonly Proof[];
  /** The selection that means them, where one does. */
  where: string | null;
  mends?: readonly Mend[];
};

export type Check = {
  code: CheckCode;
  severity: Severity;
  /** What a gate counts: the objects or images that its sentences count, or the classes or splits that they are about. */
  counts: "objects" | "images" | "classes" | "splits";
  /** What is measured and where the measure comes from; shown with the threshold. */
  means: string;
  threshold: Threshold | null;
  find: (stock: CheckedStock, threshold: number) => Iterable<Found>;
  /** Where each image is judged by itself: how. Such checks judge anew only what changed. */
  local?: LocalJudgement;
};

/** What an image is judged by: nothing but itself, what classes declare, and the threshold. */
export type LocalJudgement = {
  /** Says of an image which of its objects are meant, none where it is the image itself; null where it is fine. */
  judge: (snapshot: Snapshot, threshold: number) => (slot: number) => readonly number[] | null;
  /** What is found, of all images that are meant; ascending. */
  conclude: (proofs: readonly Proof[], threshold: number) => Omit<Found, "subject" | "proofs" | "where">;
};

/** A check that judges each image by itself. */
export function localCheck({ judge, conclude, ...check }: Omit<Check, "find" | "local"> & LocalJudgement): Check {
  return {
    ...check,
    local: { judge, conclude },
    find: ({ snapshot, slots }, threshold) =>
      concluded(proofsOf(slots, judge(snapshot, threshold)), conclude, threshold),
  };
}

/** What a local check finds of the images that are meant. */
export const concluded = (
  proofs: readonly Proof[],
  conclude: LocalJudgement["conclude"],
  threshold: number,
): Found[] => (proofs.length > 0 ? [{ ...{ subject: "", where: null, proofs }, ...conclude(proofs, threshold) }] : []);

/** Judges an image by its objects, each by itself: those that fulfil a condition are meant. */
export const judgeObjects =
  (snapshot: Snapshot, isMeant: (object: number, slot: number) => boolean) =>
  (slot: number): number[] | null => {
    let objects: number[] | null = null;
    const first = snapshot.firstObject.at(slot);
    const last = first + snapshot.objectCount.at(slot);
    for (let object = first; object < last; object++) if (isMeant(object, slot)) (objects ??= []).push(object);
    return objects;
  };

export const plural = (n: number, one: string, many: string): string =>
  `${n.toLocaleString("en-US")} ${n === 1 ? one : many}`;

/** Calls `take` with each object of an image by its place in the snapshot. */
export function eachObject(snapshot: Snapshot, slot: number, take: (object: number) => void): void {
  const first = snapshot.firstObject.at(slot);
  const last = first + snapshot.objectCount.at(slot);
  for (let object = first; object < last; object++) take(object);
}

/** Half a pixel beyond a border comes of rounding. */
export const roundingPixels = 0.5;

/** The images that are meant, each with the objects that it is about. */
export function proofsOf(slots: Uint32Array, judge: (slot: number) => readonly number[] | null): Proof[] {
  const proofs: Proof[] = [];
  for (const slot of slots) {
    const objects = judge(slot);
    if (objects) proofs.push({ slot, objects });
  }
  return proofs;
}

export const objectsIn = (proofs: readonly Proof[]): number =>
  proofs.reduce((sum, { objects }) => sum + objects.length, 0);

/** Images without objects as proofs. */
export const imagesAsProofs = (slots: Iterable<number>): Proof[] =>
  Array.from(slots, (slot) => ({ slot, objects: [] }));
