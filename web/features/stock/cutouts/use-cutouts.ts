"use client";
import { cutoutOrders, type CutoutGroup, type CutoutGroups, type CutoutOrder } from "@larder/core/snapshot/cutouts";
import type { ShownCutouts } from "@larder/server/services/stock/cutouts";
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { parseAsBoolean, parseAsInteger, parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { api } from "@/features/live/api";

export const usualEdge = 112;
const pageSize = 200;

/** A group as a word in the address: `class:3`, `image-class:3`, `attribute:bake:dark`, names with their signs escaped. */
export function groupWord(group: CutoutGroup): string {
  return group.of === "attribute"
    ? `attribute:${encodeURIComponent(group.name)}:${encodeURIComponent(group.value)}`
    : `${group.of}:${group.id}`;
}

/** Which cut-outs are looked at and in which order, kept in the address. */
export function useCutoutView() {
  const [{ group, by, down, edge }, set] = useQueryStates(
    {
      group: parseAsString,
      by: parseAsStringLiteral(cutoutOrders).withDefault("outlying"),
      down: parseAsBoolean.withDefault(true),
      edge: parseAsInteger.withDefault(usualEdge),
    },
    { history: "replace", clearOnDefault: true },
  );
  return {
    group,
    by,
    down,
    edge,
    setGroup: (next: string) => void set({ group: next }),
    setOrder: (order: { by: CutoutOrder; down: boolean }) => void set(order),
    setEdge: (next: number) => void set({ edge: next }),
  };
}

/** The groups of what a query of the stock means, with their counts. */
export const useCutoutGroups = (collection: number, query: string) =>
  useQuery({
    queryKey: ["cutouts", collection, "groups", query],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<CutoutGroups>(`/api/collections/${collection}/cutouts/groups?${query}`, { signal }),
  });

function groupQuery(group: CutoutGroup): string {
  return new URLSearchParams(
    group.of === "attribute"
      ? { of: group.of, name: group.name, value: group.value }
      : { of: group.of, id: String(group.id) },
  ).toString();
}

/** The cut-outs of a group from one place to another, fetched a page at a time. */
export function useCutouts(
  collection: number,
  query: string,
  shown: { group: CutoutGroup; by: CutoutOrder; down: boolean },
  from: number,
  to: number,
) {
  const asked = `${query}&${groupQuery(shown.group)}&by=${shown.by}&down=${shown.down}`;
  const first = Math.floor(from / pageSize);
  const last = Math.max(first, Math.floor(to / pageSize));
  const pages = useQueries({
    queries: Array.from({ length: last - first + 1 }, (_, n) => ({
      queryKey: ["cutouts", collection, asked, first + n],
      staleTime: 30_000,
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        api<ShownCutouts>(
          `/api/collections/${collection}/cutouts?${asked}&start=${(first + n) * pageSize}&limit=${pageSize}`,
          { signal },
        ),
    })),
  });
  return {
    asked,
    waiting: Math.max(0, ...pages.map(({ data }) => data?.waiting ?? 0)),
    error: pages.find(({ error }) => error)?.error ?? null,
    cutoutAt: (index: number) => pages[Math.floor(index / pageSize) - first]?.data?.cutouts[index % pageSize],
  };
}
