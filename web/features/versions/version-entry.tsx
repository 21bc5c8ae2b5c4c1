"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import type { VersionRow } from "@larder/server/services/versions";
import { useQueryClient } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import Link from "next/link";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { stepSummaries } from "@/features/plans/step-summaries";
import { SplitMark } from "@/ui/marks";
import { dayAndTime, number } from "@/ui/words";
import { Building } from "./building";
import { copyText } from "./copy-text";
import { VersionPackages } from "./version-packages";

type Row = Wire<VersionRow>;

function Change({ row, before }: { row: Row; before: Row | undefined }) {
  if (!row.numbers) return null;
  if (!before?.numbers) return <span className="text-ink-3">the first</span>;
  const say = (now: number, then: number, word: string) =>
    now === then ? `same ${word}` : `${now > then ? "+" : "−"} ${number(Math.abs(now - then))} ${word}`;
  return (
    <span className="text-ink-2">
      {row.digest === before.digest ? "the same digest as " : ""}
      {row.digest === before.digest
        ? `v${before.number}`
        : `${say(row.numbers.images, before.numbers.images, "images")}, ${say(row.numbers.objects, before.numbers.objects, "objects")}`}
    </span>
  );
}

/** A version in the list; `chosen` is whether it is one of two to be compared. */
export function VersionEntry({
  row,
  before,
  formats,
  chosen,
  onChoose,
}: {
  row: Row;
  before: Row | undefined;
  formats: readonly PackFormat[];
  chosen: boolean;
  onChoose: (chosen: boolean) => void;
}) {
  const client = useQueryClient();
  const act = async (work: () => Promise<unknown>) => {
    try {
      await work();
      await client.invalidateQueries();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const words = stepSummaries(row.plan);
  return (
    <li
      className="grid grid-cols-[72px_minmax(0,1fr)_minmax(0,560px)] gap-x-6 border-b border-rule py-4"
      data-testid={row.number ? `version-${row.number}` : "version-building"}
    >
      <div>
        <b className="font-title text-[24px] leading-none font-semibold tracking-[-0.02em]">
          {row.number ? (
            <Link href={`/c/${row.collectionId}/versions/${row.number}`} className="hover:text-act">
              v{row.number}
            </Link>
          ) : (
            "…"
          )}
        </b>
        {row.number ? (
          <label className="mt-2 flex items-center gap-1.5 text-small text-ink-3">
            <input type="checkbox" checked={chosen} onChange={(event) => onChoose(event.target.checked)} /> compare
            <span className="sr-only"> v{row.number}</span>
          </label>
        ) : null}
      </div>
      <div className="min-w-0">
        <p className="flex items-baseline gap-3">
          <span className="truncate font-semibold" title={row.name}>
            {row.number ? (
              <Link href={`/c/${row.collectionId}/versions/${row.number}`} className="hover:underline">
                {row.name}
              </Link>
            ) : (
              row.name
            )}
          </span>
          <span className="shrink-0 text-ink-3">{dayAndTime(row.frozenAt ?? row.createdAt)}</span>
        </p>
        {row.note ? <p className="text-ink-2">{row.note}</p> : null}
        {row.status === "building" ? <Building version={row.id} /> : null}
        {row.status === "failed" ? (
          <p className="text-harm">
            {row.failure}{" "}
            <button
              type="button"
              className="underline"
              onClick={() => void act(() => api(`/api/versions/${row.id}`, { method: "DELETE" }))}
            >
              Dismiss
            </button>
          </p>
        ) : null}
        {row.numbers ? (
          <>
            <p className="mt-1 flex flex-wrap gap-x-4">
              <span>
                <b className="font-semibold">{number(row.numbers.images)}</b> images,{" "}
                <b className="font-semibold">{number(row.numbers.objects)}</b> objects
              </span>
              {(["train", "val", "test"] as const).map((split) => {
                const of = row.numbers?.bySplit[split];
                return of ? (
                  <span key={split} className="inline-flex items-center gap-1.5 text-ink-2">
                    <SplitMark split={split} /> {number(of.images)}
                  </span>
                ) : null;
              })}
            </p>
            <p className="mt-0.5 text-ink-3">
              {[words.relabel, words.split, words.prepare, words.augment].join(" · ")}
            </p>
            <p className="mt-0.5 flex items-baseline gap-4">
              <Change row={row} before={before} />
              {before?.number && row.number ? (
                <Link
                  href={`/c/${row.collectionId}/versions/compare?first=${before.number}&second=${row.number}`}
                  className="text-act underline-offset-2 hover:underline"
                >
                  Compare with v{before.number}
                </Link>
              ) : null}
              <button
                type="button"
                onClick={() => void copyText(row.digest ?? "", "The digest")}
                title={`Digest ${row.digest}`}
                className="flex items-center gap-1 font-mono text-[11.5px] text-ink-2 hover:text-ink"
                data-testid="digest"
              >
                {row.digest?.slice(0, 16)} <Copy size={11} aria-hidden="true" />
              </button>
            </p>
          </>
        ) : null}
      </div>
      {row.status === "frozen" ? <VersionPackages row={row} formats={formats} /> : null}
    </li>
  );
}
