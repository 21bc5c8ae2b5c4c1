/** Objects that were copied on the bench, kept until other ones are, for this image and others. */
import type { StockObject } from "@larder/core/labels/labels";
import { v7 as uuidV7 } from "uuid";

const place = "larder-bench-clipboard";

export function copyObjects(objects: readonly StockObject[]): void {
  try {
    localStorage.setItem(place, JSON.stringify(objects));
  } catch {
    // A browser that keeps nothing, or objects too large for it: nothing is copied, nothing is lost.
  }
}

/** What was copied, as objects of their own drawn over all others, from order `order` on. */
export function copiedObjects(order: number): StockObject[] {
  try {
    const objects = JSON.parse(localStorage.getItem(place) ?? "[]") as StockObject[];
    return objects.map(({ group: _, ...object }, n) => ({ ...object, uid: uuidV7(), order: order + n }));
  } catch {
    return [];
  }
}
