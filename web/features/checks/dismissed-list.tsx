"use client";
import type { Dismissal } from "@larder/server/services/checks/stocktake";
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { actorName } from "@/features/history/names";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { count } from "@/ui/words";

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", year: "numeric" });

/** What was said to be as it should, by whom and why; each can be taken back. */
export function DismissedList({ collection, dismissed }: { collection: number; dismissed: Wire<Dismissal>[] }) {
  const client = useQueryClient();
  if (dismissed.length === 0) return null;
  const recall = async (id: number) => {
    try {
      await api(`/api/collections/${collection}/checks/dismissals/${id}`, { method: "DELETE" });
      await client.invalidateQueries({ queryKey: ["checks", collection] });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <section className="mt-8">
      <h2 className="mb-2 text-[15px]">{count(dismissed.length, "dismissal")}</h2>
      <ul className="flex flex-col gap-2">
        {dismissed.map(({ id, key, image, reason, actor, at }) => (
          <li key={id} className="border-b border-rule pb-2">
            <p>
              {key}
              {image === null ? "" : ", one image"}: {reason}
            </p>
            <p className="flex justify-between text-[12.5px] text-ink-3">
              <span>
                {actorName(actor)}, {day.format(new Date(at))}
              </span>
              <button type="button" className="underline hover:text-ink" onClick={() => void recall(id)}>
                Say it again
              </button>
            </p>
          </li>
        ))}
      </ul>
    </section>
  );
}
