"use client";
import type { ImageDetail, StockImage } from "@larder/server/services/stock";
import { keepPreviousData, queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { api } from "@/features/live/api";

/** As many images of the row are known on each side of the one that was opened. */
const eachSide = 5000;
const shownEachSide = 6;
/** What was on the bench since the page was loaded: *next like this* does not go back and forth between two. */
const opened = new Set<number>();

/**
 * The row one works through: the images that a selection meant when the bench was opened, in its order. It stays as it
 * was, also where an image no longer matches once it is labeled.
 */
export function useRow(collection: number, image: number, query: string) {
  const client = useQueryClient();
  const rowQuery = queryOptions({
    queryKey: ["still", "bench-row", collection, query],
    staleTime: Infinity,
    gcTime: Infinity,
    queryFn: async ({ signal }) => {
      const { place } = await api<ImageDetail>(`/api/collections/${collection}/stock/${image}?${query}`, { signal });
      const start = Math.max(0, place - 1 - eachSide);
      const ids = await api<number[]>(
        `/api/collections/${collection}/stock/ids?${query}&start=${start}&limit=${2 * eachSide}`,
        { signal },
      );
      // One that is opened beside its selection is in its own row all the same.
      if (!ids.includes(image)) ids.splice(place - 1 - start, 0, image);
      return { ids, start };
    },
  });
  const { data: row } = useQuery(rowQuery);
  opened.add(image);
  const at = row?.ids.indexOf(image) ?? -1;
  const shown = useMemo(
    () => (row && at >= 0 ? row.ids.slice(Math.max(0, at - shownEachSide), at + shownEachSide + 1) : [image]),
    [row, at, image],
  );
  const { data: neighbours } = useQuery({
    queryKey: ["stock", collection, "bench-strip", shown],
    placeholderData: keepPreviousData,
    queryFn: async ({ signal }) => {
      const only = shown.map((id) => `only=${id}`).join("&");
      const { images } = await api<{ images: StockImage[] }>(
        `/api/collections/${collection}/stock?${only}&start=0&limit=${shown.length}`,
        { signal },
      );
      return images.sort((a, b) => shown.indexOf(a.id) - shown.indexOf(b.id));
    },
  });
  return {
    /** From 1; null until the row is known. */
    place: row && at >= 0 ? row.start + at + 1 : null,
    before: row?.ids[at - 1] ?? null,
    after: row?.ids[at + 1] ?? null,
    neighbours: neighbours ?? [],
    /** The image so many places on, once the row is known; null beyond its ends. */
    step: async (places: 1 | -1): Promise<number | null> => {
      const { ids } = await client.ensureQueryData(rowQuery);
      return ids[ids.indexOf(image) + places] ?? null;
    },
    /** The next image after this one that a further selection means; null where there is none in the row. */
    next: async (where: string): Promise<number | null> => {
      const { ids: rowIds } = await client.ensureQueryData(rowQuery);
      const parameters = new URLSearchParams({ where, start: "0", limit: "10000" });
      const ids = new Set(await api<number[]>(`/api/collections/${collection}/stock/ids?${parameters}`));
      return rowIds.slice(rowIds.indexOf(image) + 1).find((id) => ids.has(id)) ?? null;
    },
    /** The image of the row most like this one that was not opened yet; null where there is none. */
    nextLike: async (): Promise<number | null> => {
      const { ids: rowIds } = await client.ensureQueryData(rowQuery);
      const parameters = new URLSearchParams(query);
      parameters.set("sort", "like");
      parameters.delete("like");
      for (const [name, value] of Object.entries({ like: String(image), start: "0", limit: "10000" }))
        parameters.append(name, value);
      const inRow = new Set(rowIds);
      const ids = await api<number[]>(`/api/collections/${collection}/stock/ids?${parameters}`);
      return ids.find((id) => inRow.has(id) && !opened.has(id)) ?? null;
    },
    following: (n: number) => row?.ids.slice(at + 1, at + 1 + n) ?? [],
  };
}
