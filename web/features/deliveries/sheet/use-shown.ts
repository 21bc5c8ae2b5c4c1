"use client";
import { itemFilters, type ItemFilter } from "@larder/core/intake/item-filters";
import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";

/** Which of a delivery's images the sheet shows: of one kind, or those with one finding. It stands in the address. */
export type Shown = { filter: ItemFilter; finding: string | null };

const states = { filter: parseAsStringLiteral(itemFilters).withDefault("all"), finding: parseAsString };

export function useShown(): [Shown, (shown: Shown) => void] {
  const [shown, set] = useQueryStates(states);
  return [shown, (next) => void set(next)];
}
