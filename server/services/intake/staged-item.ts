import { packShapeOf, unpackShapeOf, type StoredShape } from "@larder/core/labels/stored-shape";
import type { Item, LabeledObject } from "@larder/core/model/item";

/** What a reader said of a picture, as it waits in the database: the runs of masks as bytes. */
export type StagedItem = Omit<Item, "objects"> & { objects: (Omit<LabeledObject, "shape"> & { shape: StoredShape })[] };

export function packItem(item: Item): StagedItem {
  return { ...item, objects: item.objects.map(packShapeOf) };
}

export function unpackItem(staged: StagedItem): Item {
  return { ...staged, objects: staged.objects.map(unpackShapeOf) };
}
