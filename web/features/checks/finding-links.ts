/** Where the pictures of a finding are looked at and mended. */
import type { CheckEntry } from "@larder/server/services/checks/check-entry";
import { isWholeStock, type CheckScope } from "./scope";

/** As many images as an address names one by one. */
const mostNamed = 200;

/** The part of an address that means a finding's images; null where there are none in stock. */
export function meaning(
  { where, images }: Pick<CheckEntry, "where" | "images">,
  scope: CheckScope,
  proofs: readonly { image: number | null }[],
): string | null {
  const ids = proofs.flatMap(({ image }) => image ?? []);
  // A selection means images of the whole stock.
  if (where !== null && isWholeStock(scope)) return new URLSearchParams({ where }).toString();
  if (images === 0 || ids.length === 0) return null;
  return new URLSearchParams(ids.slice(0, mostNamed).map((id) => ["only", String(id)])).toString();
}
