"use client";
import type { HistoryEntry } from "@larder/server/services/acts";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import Link from "next/link";
import { parseAsString, useQueryStates } from "nuqs";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { SelectField } from "@/ui/field";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, dayAndTime, number } from "@/ui/words";
import { BinLine } from "@/features/bin/bin-line";
import { actorName, kindName } from "./names";

type Page = { entries: HistoryEntry[]; next: number | null };

function StateCell({ entry }: { entry: HistoryEntry }) {
  if (entry.status === "running") return <span className="text-info">under way</span>;
  if (entry.status === "failed") return <span className="text-harm">failed</span>;
  if (entry.status === "stopped") return <span className="text-ink-3">stopped</span>;
  return entry.undone ? <span className="text-ink-3">taken back</span> : null;
}

/** Everything that was done to labels in a collection, newest first, each to be taken back. */
export function History({ collection }: { collection: number }) {
  const [filter, setFilter] = useQueryStates({
    by: parseAsString.withDefault(""),
    kind: parseAsString.withDefault(""),
  });
  const { undo } = useActs(collection);
  const query = new URLSearchParams({
    ...(filter.by ? { actor: filter.by } : {}),
    ...(filter.kind ? { kind: filter.kind } : {}),
  });
  const facets = useQuery({
    queryKey: ["history", collection, "facets"],
    queryFn: ({ signal }) =>
      api<{ actors: string[]; kinds: string[] }>(`/api/collections/${collection}/acts/facets`, { signal }),
  });
  const pages = useInfiniteQuery({
    queryKey: ["history", collection, query.toString()],
    initialPageParam: null as number | null,
    queryFn: ({ pageParam, signal }) =>
      api<Page>(`/api/collections/${collection}/acts?${query}${pageParam ? `&before=${pageParam}` : ""}`, { signal }),
    getNextPageParam: ({ next }) => next,
  });
  const entries = pages.data?.pages.flatMap((page) => page.entries);
  const all = { value: "", label: "all" };
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title="History" aside="what was done to labels, and what takes it back">
        <SelectField
          label="By whom"
          className="w-36"
          value={filter.by}
          options={[all, ...(facets.data?.actors ?? []).map((value) => ({ value, label: actorName(value) }))]}
          onChange={(by) => void setFilter({ by: by || null })}
        />
        <SelectField
          label="What kind"
          className="w-44"
          value={filter.kind}
          options={[all, ...(facets.data?.kinds ?? []).map((value) => ({ value, label: kindName(value) }))]}
          onChange={(kind) => void setFilter({ kind: kind || null })}
        />
        <Button asChild className="self-end">
          <a href={`/api/collections/${collection}/acts/export?${query}`}>
            <Download size={14} aria-hidden="true" /> Save as CSV
          </a>
        </Button>
      </PageHead>
      <BinLine collection={collection} />
      {pages.error ? <Trouble error={pages.error} again={() => void pages.refetch()} /> : null}
      {!entries && !pages.error ? <Loading what="the history" /> : null}
      {entries?.length === 0 ? (
        <Empty title={query.size > 0 ? "Nothing of this kind" : "Nothing was done yet"}>
          Taking in, moving between splits, tagging, undoing: all of it is written down here, and can be taken back.
        </Empty>
      ) : null}
      {entries && entries.length > 0 ? (
        <div className="px-5 pt-2">
          <table className="ledger">
            <thead>
              <tr>
                <th>When</th>
                <th>Who</th>
                <th>What</th>
                <th className="number">Images</th>
                <th>State</th>
                <th>
                  <span className="sr-only">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {entries.map((entry) => (
                <tr key={entry.id} className={`h-[41px] ${entry.undone ? "text-ink-3" : ""}`}>
                  <td className="whitespace-nowrap text-ink-3">{dayAndTime(entry.at)}</td>
                  <td className="whitespace-nowrap">{actorName(entry.actor)}</td>
                  <td className="max-w-[720px] break-words">
                    {entry.text}
                    {entry.via?.kind === "delivery" ? (
                      <Link className="ml-2 text-act underline" href={`/c/${collection}/deliveries/${entry.via.id}`}>
                        delivery
                      </Link>
                    ) : null}
                  </td>
                  <td className="number">{number(entry.images)}</td>
                  <td>
                    <StateCell entry={entry} />
                  </td>
                  <td className="number">
                    {entry.undoable ? (
                      <Button small look="quiet" aria-label={`Undo: ${entry.text}`} onClick={() => void undo(entry.id)}>
                        Undo
                      </Button>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {pages.hasNextPage ? (
            <div className="pt-3 text-center">
              <Button disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
                Older ones
              </Button>
            </div>
          ) : (
            <p className="pt-3 text-center text-small text-ink-3">
              {count(entries.length, "entry", "entries")}, back to the beginning
            </p>
          )}
        </div>
      ) : null}
    </main>
  );
}
