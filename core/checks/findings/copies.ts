/** Pictures that are nearly the same, by their perceptual hashes as intake compared them. */
import { splitNames } from "../../model/item";
import type { Snapshot } from "../../snapshot/snapshot";
import { imagesAsProofs, intoTheBin, plural, type Check, type CheckedStock, type Mend } from "../check";

/** Groups of images that are nearly the same, through any number of others; slots, ascending. */
export function copyGroups({ snapshot, slots }: CheckedStock): number[][] {
  const among = new Uint8Array(snapshot.length);
  for (const slot of slots) among[slot] = 1;
  const seen = new Set<number>();
  const groups: number[][] = [];
  for (const start of snapshot.slotsWithNearCopies()) {
    if (among[start] === 0 || seen.has(start)) continue;
    seen.add(start);
    const group = [start];
    // The group grows while it is walked.
    for (const slot of group)
      for (const other of snapshot.nearCopiesIn(slot)) {
        if (seen.has(other) || among[other] === 0) continue;
        seen.add(other);
        group.push(other);
      }
    if (group.length > 1) groups.push(group.sort((a, b) => a - b));
  }
  return groups;
}

const splitsIn = ({ snapshot }: CheckedStock, group: readonly number[]) =>
  new Set(group.map((slot) => snapshot.split.at(slot)).filter((split) => split > 0));

export const copiesAcrossSplits: Check = {
  code: "near-copy-across-splits",
  severity: "error",
  counts: "images",
  means:
    "Images that are nearly the same (perceptual hashes that differ in 28 of 256 bits or fewer) and lie in different splits: what is measured was seen while learning.",
  threshold: null,
  *find(stock) {
    const groups = copyGroups(stock).filter((group) => splitsIn(stock, group).size > 1);
    if (groups.length === 0) return;
    const { snapshot } = stock;
    const images = groups.flat();
    yield {
      subject: "",
      sentence: `${plural(images.length, "image has", "images have")} a near-copy in another split, in ${plural(groups.length, "group", "groups")}.`,
      count: images.length,
      proofs: imagesAsProofs(images),
      where: null,
      mends: [...movesTogether(snapshot, groups), leaveOut(snapshot, groups)],
    };
  },
};

/** The split that a group's copies belong to: train where one of them is there, else that of the first that has one. */
function homeOf(snapshot: Snapshot, group: readonly number[]): number {
  const splits = group.map((slot) => snapshot.split.at(slot)).filter((split) => split > 0);
  return Math.min(...splits);
}

function movesTogether(snapshot: Snapshot, groups: readonly number[][]): Mend[] {
  return splitNames.flatMap((split, n): Mend[] => {
    const slots = groups
      .filter((group) => homeOf(snapshot, group) === n + 1)
      .flatMap((group) => group.filter((slot) => snapshot.split.at(slot) !== n + 1));
    return slots.length > 0 ? [{ label: `Move them together to ${split}`, request: { do: "move", split }, slots }] : [];
  });
}

/** What lies in another split than its group belongs to goes. */
function leaveOut(snapshot: Snapshot, groups: readonly number[][]): Mend {
  const slots = groups.flatMap((group) => {
    const home = homeOf(snapshot, group);
    return group.filter((slot) => snapshot.split.at(slot) !== home && snapshot.split.at(slot) > 0);
  });
  return { label: "Leave out the copies in other splits", request: { do: "remove" }, slots };
}

export const copiesWithinSplit: Check = {
  code: "near-copy-within-split",
  severity: "info",
  counts: "images",
  means:
    "Images that are nearly the same and lie in one split, or in none: they weigh more than others and teach little more.",
  threshold: null,
  *find(stock) {
    const groups = copyGroups(stock).filter((group) => splitsIn(stock, group).size < 2);
    if (groups.length === 0) return;
    const later = groups.flatMap((group) => group.slice(1));
    yield {
      subject: "",
      sentence: `${plural(later.length, "image is", "images are")} nearly the same as an earlier one of the same split.`,
      count: later.length,
      proofs: imagesAsProofs(later),
      where: null,
      mends: [{ ...intoTheBin, label: "Put the later ones into the bin" }],
    };
  },
};
