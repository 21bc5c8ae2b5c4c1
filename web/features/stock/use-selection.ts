"use client";
import type { Selection } from "@larder/core/selection/chosen";
import { chosenIn, toggled, type Dimension } from "@larder/core/selection/dimensions";
import { parseSelection } from "@larder/core/selection/parse";
import { printSelection } from "@larder/core/selection/print";
import { conjuncts, type SelectionTree } from "@larder/core/selection/tree";
import { parseAsInteger, parseAsNativeArrayOf, parseAsString, useQueryState, useQueryStates } from "nuqs";
import { useMemo } from "react";

const usualSize = 200;
const usualSort = "arrival";
const history = { history: "push", clearOnDefault: true } as const;

/** A text as a tree; null where it cannot be understood. */
function treeOf(where: string): SelectionTree | null {
  try {
    return parseSelection(where);
  } catch {
    return null;
  }
}

/**
 * Which images are looked at, and the size of their tiles, kept in the address; `address` carries both to other pages.
 * Histograms and the filter line are two views of its text.
 */
export function useSelection() {
  const [where, setWhere] = useQueryState("where", parseAsString.withDefault("").withOptions(history));
  // A key a value, as the server is asked too.
  const [only, setOnly] = useQueryState(
    "only",
    parseAsNativeArrayOf(parseAsInteger).withDefault([]).withOptions(history),
  );
  const [size, setSize] = useQueryState("size", parseAsInteger.withDefault(usualSize));
  const [{ sort, seed, like }, setOrder] = useQueryStates(
    {
      sort: parseAsString.withDefault(usualSort),
      seed: parseAsInteger.withDefault(1),
      like: parseAsNativeArrayOf(parseAsInteger).withDefault([]),
    },
    history,
  );
  const tree = useMemo(() => treeOf(where), [where]);
  const chosen = useMemo(() => chosenIn(tree ?? { kind: "all" }), [tree]);
  const toggle = (dimension: Dimension, key: string) => {
    const next = printSelection(toggled(tree ?? { kind: "all" }, dimension, key));
    void setWhere(next === "" ? null : next);
  };
  const write = (text: string) => void setWhere(text.trim() === "" ? null : text.trim());
  const clear = () => {
    void setWhere(null);
    void setOnly(null);
  };
  const parameters = new URLSearchParams(where === "" ? {} : { where });
  for (const id of only) parameters.append("only", String(id));
  const query = parameters.toString();
  if (sort !== usualSort) parameters.set("sort", sort);
  if (sort === "random") parameters.set("seed", String(seed));
  if (sort === "like") for (const id of like) parameters.append("like", String(id));
  const listQuery = parameters.toString();
  if (size !== usualSize) parameters.set("size", String(size));
  const selection: Selection = { where, only: only.length > 0 ? only : null, except: [] };
  const active = (tree ? conjuncts(tree).length : 1) + (only.length > 0 ? 1 : 0);
  return {
    where,
    only,
    selection,
    chosen,
    toggle,
    write,
    clear,
    active,
    /** What is meant, for counting. */
    query,
    /** What is meant, in its order, for lists. */
    listQuery,
    sort,
    /** `example`: images that those nearest to them come first of, where the order is that of likeness. */
    setOrder: (next: string, { seed: nextSeed, like: example }: { seed?: number; like?: number[] } = {}) =>
      void setOrder({ sort: next === usualSort ? null : next, seed: nextSeed ?? null, like: example ?? null }),
    size,
    setSize,
    address: parameters.toString(),
  };
}

export type StockSelection = ReturnType<typeof useSelection>;
