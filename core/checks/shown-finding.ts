/** A finding as it is shown and sent: images by their ids, objects by theirs and their boxes. */
import type { Box } from "../model/shape";
import type { Snapshot } from "../snapshot/snapshot";
import type { Mend, Proof } from "./check";
import type { StockFinding } from "./stocktake";

/** Where a picture is had: an image in stock, or what a version made of it. */
export type Picture = { image: number | null; rendering: string | null };

export type ShownProof = Picture & {
  name: string;
  width: number;
  height: number;
  /** When it was last changed, milliseconds since 1970. */
  changed: number;
  objects: ({ id: number; classId: number } & Box)[];
};

export type ShownMend = Mend & { only: number[] | null };

export type ShownFinding = Omit<StockFinding, "mends" | "proofs"> & {
  /** Each with the ids of the images that it changes, where these are not all. */
  mends: readonly ShownMend[];
  /** How many images prove it. */
  images: number;
  /** The first of them. */
  proofs: ShownProof[];
  /** The same for as long as the same images and objects prove it. */
  mark: string;
};

/** As many pictures as stand beside a finding. */
const shownBeside = 8;

type PictureOf = (slot: number) => Picture;
const inStock =
  (snapshot: Snapshot): PictureOf =>
  (slot) => ({ image: snapshot.ids.at(slot), rendering: null });

function shown(snapshot: Snapshot, { slot, objects }: Proof, pictureOf: PictureOf): ShownProof {
  return {
    ...pictureOf(slot),
    name: snapshot.names[slot] ?? "",
    width: snapshot.width.at(slot),
    height: snapshot.height.at(slot),
    changed: snapshot.changed.at(slot),
    objects: objects.map((object) => ({
      id: snapshot.objectId.at(object),
      classId: snapshot.classIds[snapshot.objectClass.at(object)] ?? 0,
      x: snapshot.x.at(object),
      y: snapshot.y.at(object),
      width: snapshot.boxWidth.at(object),
      height: snapshot.boxHeight.at(object),
    })),
  };
}

/** The images that prove a finding, from the one at `start` on. */
export const shownProofs = (
  snapshot: Snapshot,
  { proofs }: StockFinding,
  start: number,
  limit: number,
  pictureOf = inStock(snapshot),
): ShownProof[] => proofs.slice(start, start + limit).map((proof) => shown(snapshot, proof, pictureOf));

/** FNV-1a over ids, each taken as two halves of 32 bits: fine for telling whether something is still the same. */
function markOf(snapshot: Snapshot, proofs: readonly Proof[]): string {
  let hash = 0x811c9dc5;
  const take = (value: number) => {
    for (const half of [value >>> 0, Math.floor(value / 2 ** 32) >>> 0]) {
      hash = Math.imul(hash ^ half, 0x01000193) >>> 0;
    }
  };
  for (const { slot, objects } of proofs) {
    take(snapshot.ids.at(slot));
    for (const object of objects) take(snapshot.objectId.at(object));
  }
  return `${proofs.length} ${hash.toString(16)}`;
}

/** `pictureOf`: where the picture of a slot is had; in stock where it is left out. */
export function describeFinding(
  snapshot: Snapshot,
  finding: StockFinding,
  pictureOf: PictureOf = inStock(snapshot),
): ShownFinding {
  const { proofs, mends, ...rest } = finding;
  return {
    ...rest,
    mends: mends.map((mend) => ({ ...mend, only: mend.slots?.map((slot) => snapshot.ids.at(slot)) ?? null })),
    images: proofs.length,
    proofs: shownProofs(snapshot, finding, 0, shownBeside, pictureOf),
    mark: markOf(snapshot, proofs),
  };
}
