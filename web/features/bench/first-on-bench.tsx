"use client";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect } from "react";
import { api } from "@/features/live/api";
import { useSelection } from "@/features/stock/use-selection";
import { Button } from "@/ui/button";
import { Empty, Loading, Trouble } from "@/ui/states";

/** Opens the bench at the first image of a selection, in its order. */
export function FirstOnBench({ collection }: { collection: number }) {
  const router = useRouter();
  const { listQuery, address } = useSelection();
  const { data: first, error } = useQuery({
    queryKey: ["still", "bench-first", collection, listQuery],
    gcTime: 0,
    queryFn: async ({ signal }) => {
      const ids = await api<number[]>(`/api/collections/${collection}/stock/ids?${listQuery}&start=0&limit=1`, {
        signal,
      });
      return ids[0] ?? null;
    },
  });
  useEffect(() => {
    if (typeof first === "number") router.replace(`/c/${collection}/bench/${first}?${address}`);
  }, [router, collection, first, address]);
  if (error) return <Trouble error={error} />;
  if (first !== null) return <Loading what="the bench" />;
  return (
    <Empty
      title="No image matches"
      action={
        <Button asChild>
          <Link href={`/c/${collection}/stock?${address}`}>Back to stock</Link>
        </Button>
      }
    >
      There is nothing in this selection to be mended.
    </Empty>
  );
}
