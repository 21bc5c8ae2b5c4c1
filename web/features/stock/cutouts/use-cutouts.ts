"use client";
import { cutoutOrders, type CutoutGroup, type CutoutOrder } from "@larder/core/snapshot/cutout-group";
import type { CutoutGroups } from "@larder/core/snapshot/cutouts";
import type { ShownCutouts } from "@larder/server/services/stock/cutouts";
import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { parseAsBoolean, parseAsInteger, parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { api } from "@/features/live/api";
import { isScrolledFast } from "../cells/scroll-speed";
import type { Looks } from "../grid/cell";

export const usualEdge = 112;
/** Pictures come with their page: few enough to be there soon, many enough that a fast scroll is few requests. */
const pageSize = 60;

/** A group as a word in the address: `class:3`, `image-class:3`, `attribute:bake:dark`, names with their signs escaped. */
export function groupWord(group: CutoutGroup): string {
  return group.of === "attribute"
    ? `attribute:${encodeURIComponent(group.name)}:${encodeURIComponent(group.value)}`
    : `${group.of}:${group.id}`;
}

/** A group as people call it. */
export function groupName(group: CutoutGroup, looks: Looks): string {
  return group.of === "attribute" ? `${group.name}: ${group.value}` : (looks.get(group.id)?.name ?? "…");
}

/** As many others are shown beside a group, the largest of them: more would leave none of them room. */
const mostBeside = 3;

/** The other values of an attribute, or the other classes of images: what a group is told apart from. */
export function besides(group: CutoutGroup, groups: CutoutGroups): CutoutGroups {
  const kin = groups.filter(
    ({ group: other }) =>
      groupWord(other) !== groupWord(group) &&
      (group.of === "attribute"
        ? other.of === "attribute" && other.name === group.name
        : group.of === "image-class" && other.of === "image-class"),
  );
  return kin.sort((a, b) => b.count - a.count).slice(0, mostBeside);
}

/** Which cut-outs are looked at and in which order, kept in the address. */
export function useCutoutView() {
  const [{ group, by, down, edge, beside }, set] = useQueryStates(
    {
      group: parseAsString,
      by: parseAsStringLiteral(cutoutOrders).withDefault("outlying"),
      down: parseAsBoolean.withDefault(true),
      edge: parseAsInteger.withDefault(usualEdge),
      /** Whether what is kin to the group stands beside it. */
      beside: parseAsBoolean.withDefault(false),
    },
    { history: "replace", clearOnDefault: true },
  );
  return {
    group,
    by,
    down,
    edge,
    beside,
    setBeside: (next: boolean) => void set({ beside: next }),
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

/** After so many milliseconds sharp pictures are asked for where rough ones came: at once for what is in view. */
const sharpAfter = { inView: 50, outside: 1000 };
/** Pages on the way are asked for as long before they come into view as an answer may take, in milliseconds. */
const aheadOf = 800;
const mostAhead = 12 * pageSize;

/** How many cut-outs before and after what is in view should be there, by how fast the first of it moves. */
function useAhead(from: number): { before: number; after: number } {
  const moved = useRef({ from, at: 0, speed: 0 });
  const now = performance.now();
  const { current } = moved;
  if (from !== current.from) {
    const took = Math.max(1, now - current.at);
    // Smoothed, so that one step does not throw it; what has stood still begins anew.
    const speed = (from - current.from) / took;
    moved.current = { from, at: now, speed: took > 300 ? 0 : 0.7 * current.speed + 0.3 * speed };
  }
  const { speed } = moved.current;
  const ahead = Math.min(mostAhead, Math.abs(speed) * aheadOf);
  // One page either way is there in any case.
  return { before: pageSize + (speed < 0 ? ahead : 0), after: pageSize + (speed > 0 ? ahead : 0) };
}

/** The cut-outs of a group from one place to another, fetched a page at a time. */
export function useCutouts(
  collection: number,
  query: string,
  shown: { group: CutoutGroup; by: CutoutOrder; down: boolean },
  { from, to, total }: { from: number; to: number; total: number },
) {
  const asked = `${query}&${groupQuery(shown.group)}&by=${shown.by}&down=${shown.down}`;
  const { before, after } = useAhead(from);
  const first = Math.max(0, Math.floor((from - before) / pageSize));
  const last = Math.max(first, Math.floor(Math.min(to + after, total - 1) / pageSize));
  const client = useQueryClient();
  const pageOf = (nth: number) => {
    const queryKey = ["cutouts", collection, asked, nth];
    const isInView = nth >= Math.floor(from / pageSize) && nth <= Math.floor(to / pageSize);
    return {
      queryKey,
      staleTime: 30_000,
      queryFn: ({ signal }: { signal: AbortSignal }) => {
        // First what is there at once, as little as can be of what goes by; sharp ones once somebody looks at them.
        const first = isScrolledFast() ? "small" : "ready";
        const pictures = first === "ready" && client.getQueryData(queryKey) ? "sharp" : first;
        return api<ShownCutouts>(
          `/api/collections/${collection}/cutouts?${asked}&start=${nth * pageSize}&limit=${pageSize}&pictures=${pictures}`,
          { signal },
        );
      },
      refetchInterval: (page: { state: { data?: ShownCutouts | undefined } }) =>
        page.state.data?.isRough ? sharpAfter[isInView ? "inView" : "outside"] : false,
    };
  };
  const pages = useQueries({ queries: Array.from({ length: last - first + 1 }, (_, n) => pageOf(first + n)) });
  return {
    asked,
    waiting: Math.max(0, ...pages.map(({ data }) => data?.waiting ?? 0)),
    error: pages.find(({ error }) => error)?.error ?? null,
    cutoutAt: (index: number) => pages[Math.floor(index / pageSize) - first]?.data?.cutouts[index % pageSize],
  };
}
