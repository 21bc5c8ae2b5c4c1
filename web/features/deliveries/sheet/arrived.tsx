"use client";
import { useQuery } from "@tanstack/react-query";
import { api } from "@/features/live/api";
import { bytes, count, number } from "@/ui/words";

const namedAtMost = 8;

/** What of a delivery has arrived, while it is on its way. */
export function Arrived({ delivery }: { delivery: number }) {
  const { data } = useQuery({
    queryKey: ["delivery", delivery, "files"],
    refetchInterval: 3000,
    queryFn: ({ signal }) => api<{ path: string; size: number }[]>(`/api/deliveries/${delivery}/files`, { signal }),
  });
  if (!data || data.length === 0) return <p>Nothing has arrived yet.</p>;
  const total = data.reduce((sum, { size }) => sum + size, 0);
  return (
    <p>
      {count(data.length, "file")}, {bytes(total)}, {data.length === 1 ? "has" : "have"} arrived and can be read:{" "}
      <span className="font-mono text-small">
        {data
          .slice(0, namedAtMost)
          .map(({ path }) => path)
          .join(", ")}
      </span>
      {data.length > namedAtMost ? ` and ${number(data.length - namedAtMost)} more` : ""}. The same files chosen again
      go on where they stopped.
    </p>
  );
}
