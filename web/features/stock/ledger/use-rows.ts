"use client";
import type { LedgerRow } from "@larder/core/ledger/column";
import { mostPicked } from "@larder/core/selection/chosen";
import { useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "@/features/live/api";

const pageSize = 100;

/**
 * The rows of what matches. As long as they are not too many their images are settled when the ledger is opened: what
 * is typed does not make rows go that do not match any more, until `again` looks anew.
 */
export function useRows(collection: number, listQuery: string, matching: number, from: number, to: number) {
  const client = useQueryClient();
  const settled = useQuery({
    queryKey: ["still", "ledger-ids", collection, listQuery],
    enabled: matching <= mostPicked,
    staleTime: Infinity,
    gcTime: 0,
    queryFn: ({ signal }) =>
      api<number[]>(`/api/collections/${collection}/stock/ids?${listQuery}&start=0&limit=${mostPicked}`, { signal }),
  });
  const ids = settled.data ?? null;
  const total = ids ? ids.length : matching;
  const optionsOf = (page: number) => {
    const some = ids?.slice(page * pageSize, (page + 1) * pageSize);
    const query = some
      ? `${new URLSearchParams(some.map((id) => ["only", String(id)])).toString()}&start=0&limit=${pageSize}`
      : `${listQuery}&start=${page * pageSize}&limit=${pageSize}`;
    return {
      queryKey: ["ledger", collection, query],
      staleTime: 30_000,
      queryFn: async ({ signal }: { signal?: AbortSignal }) => {
        const { rows } = await api<{ rows: LedgerRow[] }>(
          `/api/collections/${collection}/ledger?${query}`,
          signal ? { signal } : {},
        );
        if (!some) return rows;
        const byId = new Map(rows.map((row) => [row.id, row]));
        return some.map((id) => byId.get(id) ?? null);
      },
    };
  };
  const first = Math.floor(from / pageSize);
  const last = Math.max(first, Math.floor(Math.max(from, to) / pageSize));
  const ready = ids !== null || matching > mostPicked;
  const pages = useQueries({
    queries: ready ? Array.from({ length: last - first + 1 }, (_, n) => optionsOf(first + n)) : [],
  });
  const cached = (index: number): LedgerRow | null | undefined =>
    client.getQueryData<(LedgerRow | null)[]>(optionsOf(Math.floor(index / pageSize)).queryKey)?.[index % pageSize];
  return {
    total,
    ready,
    error: settled.error ?? pages.find(({ error }) => error)?.error ?? null,
    /** The row at a place; undefined while it is not there yet, null where its image is gone. */
    rowAt: (index: number): LedgerRow | null | undefined =>
      index >= first * pageSize && index < (last + 1) * pageSize
        ? pages[Math.floor(index / pageSize) - first]?.data?.[index % pageSize]
        : cached(index),
    /** Sees to it that the rows between two places are there. */
    load: async (start: number, end: number): Promise<(LedgerRow | null)[]> => {
      const numbers = Array.from(
        { length: Math.floor(end / pageSize) - Math.floor(start / pageSize) + 1 },
        (_, n) => Math.floor(start / pageSize) + n,
      );
      const loaded = await Promise.all(numbers.map((page) => client.ensureQueryData(optionsOf(page))));
      const skip = start - (numbers[0] ?? 0) * pageSize;
      return loaded.flat().slice(skip, skip + end - start + 1);
    },
    /** Puts rows as they stand by now into what is shown. */
    put: (rows: readonly LedgerRow[]) => {
      const byId = new Map(rows.map((row) => [row.id, row]));
      client.setQueriesData<(LedgerRow | null)[]>({ queryKey: ["ledger", collection] }, (page) =>
        page?.map((row) => (row ? (byId.get(row.id) ?? row) : row)),
      );
    },
    again: () => void settled.refetch(),
    settled: ids !== null,
  };
}
export type Rows = ReturnType<typeof useRows>;
