/** What is picked in the grid: some images, or all that match but for some. */
import { mostPicked, type Selection } from "@larder/core/selection/chosen";
import { api } from "@/features/live/api";

export type Picked = { all: false; images: ReadonlySet<number> } | { all: true; except: ReadonlySet<number> };

export const nothing: Picked = { all: false, images: new Set() };
export const everything: Picked = { all: true, except: new Set() };

export function holds(picked: Picked, id: number): boolean {
  return picked.all ? !picked.except.has(id) : picked.images.has(id);
}

export function sizeOf(picked: Picked, matching: number): number {
  return picked.all ? Math.max(0, matching - picked.except.size) : picked.images.size;
}

function flipped(set: ReadonlySet<number>, id: number): Set<number> {
  const next = new Set(set);
  if (!next.delete(id)) next.add(id);
  return next;
}

/** After a click on an image: it alone, or with `keep` it in or out of what is picked. The one picked image lets go. */
export function toggled(picked: Picked, id: number, keep: boolean): Picked {
  if (keep && picked.all) return { all: true, except: flipped(picked.except, id) };
  if (keep && !picked.all) return { all: false, images: flipped(picked.images, id) };
  const alone = !picked.all && picked.images.size === 1 && picked.images.has(id);
  return alone ? nothing : { all: false, images: new Set([id]) };
}

export function withMore(picked: Picked, ids: readonly number[]): Picked {
  if (!picked.all) return { all: false, images: new Set([...picked.images, ...ids]) };
  const except = new Set(picked.except);
  for (const id of ids) except.delete(id);
  return { all: true, except };
}

/** Ids of the images between two places of the grid, both included. Throws where they are too many to be named. */
export async function idsBetween(collection: number, query: string, start: number, end: number): Promise<number[]> {
  if (end - start >= mostPicked)
    throw new Error("These are more than 10,000 images. Filter down to them and take all that match.");
  return api<number[]>(`/api/collections/${collection}/stock/ids?${query}&start=${start}&limit=${end - start + 1}`);
}

/** Which images are picked, as acts are told; `shown` is what the grid shows. */
export function selectionOf(picked: Picked, shown: Selection): Selection {
  return picked.all ? { ...shown, except: [...picked.except] } : { where: "", only: [...picked.images], except: [] };
}
