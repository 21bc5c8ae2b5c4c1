import { selecting } from "@larder/core/selection/dimensions";

/** The address of a collection's stock with these bars chosen. */
export function stockLink(collection: number, chosen: Parameters<typeof selecting>[0]): string {
  return `/c/${collection}/stock?${new URLSearchParams({ where: selecting(chosen) }).toString()}`;
}
