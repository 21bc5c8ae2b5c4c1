/** Where the pictures of a finding are looked at and mended. */
import type { CheckEntry } from "@larder/server/services/checks";

/** As many images as an address names one by one. */
const mostNamed = 200;

/** The part of an address that means a finding's images; null where there are none in stock. */
export function meaning({ where, images }: CheckEntry, ids: readonly number[]): string | null {
  if (where !== null) return new URLSearchParams({ where }).toString();
  if (images === 0) return null;
  return new URLSearchParams(ids.slice(0, mostNamed).map((id) => ["only", String(id)])).toString();
}
