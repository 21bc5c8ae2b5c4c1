"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import type { VersionRow } from "@larder/server/services/versions";
import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { count, dayAndTime } from "@/ui/words";
import { Building } from "./building";
import { PackageRow } from "./package-row";

type Row = Wire<VersionRow>;

/** Selections that were packed as they are: no versions, and to be removed when they are not needed any more. */
export function PackedSelections({ rows, formats }: { rows: readonly Row[]; formats: readonly PackFormat[] }) {
  const client = useQueryClient();
  const remove = async (id: number) => {
    try {
      await api(`/api/versions/${id}`, { method: "DELETE" });
      await client.invalidateQueries();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section aria-label="Packed selections" className="mt-8">
      <h2 className="px-5 pb-2 text-[17px]">
        Packed selections{" "}
        <span className="text-small font-normal text-ink-3">as they were; no versions, so without a number</span>
      </h2>
      <ul className="border-t border-rule px-5">
        {rows.map((row) => (
          <li
            key={row.id}
            className="grid grid-cols-[minmax(0,1fr)_minmax(0,540px)_auto] gap-x-6 border-b border-rule py-3"
          >
            <div className="min-w-0">
              <p className="flex items-baseline gap-3">
                <span className="truncate font-semibold">{row.name}</span>
                <span className="shrink-0 text-ink-3">{dayAndTime(row.createdAt)}</span>
              </p>
              {row.selection?.where ? (
                <p className="truncate font-mono text-[12px] text-ink-2" title={row.selection.where}>
                  {row.selection.where}
                </p>
              ) : null}
              {row.status === "building" ? <Building version={row.id} /> : null}
              {row.status === "failed" ? <p className="text-harm">{row.failure}</p> : null}
              {row.numbers ? (
                <p className="text-ink-2">
                  {count(row.numbers.images, "image")}, {count(row.numbers.objects, "object")}
                </p>
              ) : null}
            </div>
            <ul>
              {row.packages.map((pack) => (
                <PackageRow key={pack.id} pack={pack} format={formats.find(({ name }) => name === pack.format)} />
              ))}
            </ul>
            {row.status === "building" ? null : (
              <Button small className="self-start" onClick={() => void remove(row.id)}>
                Remove <span className="sr-only">{row.name}</span>
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
