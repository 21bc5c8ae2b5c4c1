"use client";
import type { ImageHistoryEntry } from "@larder/server/services/acts";
import { useQuery } from "@tanstack/react-query";
import { actorName } from "@/features/history/names";
import { api } from "@/features/live/api";
import { dayAndTime } from "@/ui/words";

/** What was done to one image, newest first. */
export function ImageHistory({ collection, image }: { collection: number; image: number }) {
  const { data } = useQuery({
    queryKey: ["image-history", collection, image],
    queryFn: ({ signal }) => api<ImageHistoryEntry[]>(`/api/images/${image}/history`, { signal }),
  });
  if (!data || data.length === 0) return null;
  return (
    <>
      <h2 className="mt-5 mb-1 text-[15px]">History</h2>
      <ol aria-label="History" className="text-[12.5px]">
        {data.map((entry) => (
          <li key={entry.act} className="border-b border-dim-rule py-1.5" title={entry.act_text}>
            <span className="break-words">{entry.text}</span>
            <span className="block text-dim-ink-2">
              {actorName(entry.actor)}, {dayAndTime(entry.at)}
            </span>
          </li>
        ))}
      </ol>
    </>
  );
}
