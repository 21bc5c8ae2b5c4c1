"use client";
import type { PackFormat } from "@/features/formats/option-rows";
import type { VersionDetail } from "@larder/server/services/version-page";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy } from "lucide-react";
import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useVersions, type Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, dayAndTime } from "@/ui/words";
import { AddScores } from "./add-scores";
import { copyText } from "./copy-text";
import { DataCard } from "./data-card";
import { DiskUse } from "./disk-use";
import { useScores } from "./scores-over-versions";
import { VersionPackages } from "./version-packages";

/** The models trained on a version, each with its main figures. */
function Scores({ collection, version, number }: { collection: number; version: number; number: number }) {
  const client = useQueryClient();
  const { data } = useScores(collection);
  const [adding, setAdding] = useState(false);
  const own = data?.filter((score) => score.version === version) ?? [];
  const remove = async (id: number) => {
    try {
      await api(`/api/versions/${version}/scores/${id}`, { method: "DELETE" });
      await client.invalidateQueries({ queryKey: ["scores"] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <section aria-label="Scores">
      <div className="flex items-center gap-3 pb-2">
        <h2 className="mr-auto text-[17px]">Scores of trained models</h2>
        <Button small onClick={() => setAdding(true)}>
          Add scores
        </Button>
      </div>
      {own.length === 0 ? (
        <p className="text-ink-3">None yet. Scores stand beside those of other versions, class by class.</p>
      ) : (
        <ul className="border-t border-rule">
          {own.map(({ id, model, scores, at }) => (
            <li key={id} className="flex items-baseline gap-3 border-b border-rule py-1.5">
              <b className="min-w-0 truncate font-semibold" title={model}>
                {model}
              </b>
              <span className="grow text-ink-2">
                {Object.entries(scores.overall)
                  .slice(0, 4)
                  .map(([measure, value]) => `${measure} ${Number(value.toFixed(3))}`)
                  .join(", ")}
                {Object.keys(scores.byClass).length > 0
                  ? ` · ${count(Object.keys(scores.byClass).length, "class", "classes")}`
                  : ""}
              </span>
              <span className="text-small text-ink-3">{dayAndTime(at)}</span>
              <Button small look="quiet" onClick={() => void remove(id)}>
                Remove <span className="sr-only">{model}</span>
              </Button>
            </li>
          ))}
        </ul>
      )}
      {adding ? <AddScores version={version} number={number} close={() => setAdding(false)} /> : null}
    </section>
  );
}

/** One frozen version: its data card at the left; packages, scores and disk at the right. */
export function VersionPage({
  collection,
  version: number,
  formats,
}: {
  collection: number;
  version: number;
  formats: readonly PackFormat[];
}) {
  const { data: rows, error: rowsError } = useVersions(collection);
  const row = rows?.find((candidate) => candidate.number === number);
  const id = row?.id;
  const { data, error } = useQuery({
    queryKey: ["version", collection, id],
    enabled: id !== undefined,
    queryFn: ({ signal }) => api<Wire<VersionDetail>>(`/api/versions/${id}`, { signal }),
  });
  if (rowsError ?? error) return <Trouble error={(rowsError ?? error) as Error} />;
  if (rows && !row)
    return (
      <Empty title={`There is no v${number}`} action={<Link href={`/c/${collection}/versions`}>To the versions</Link>}>
        This collection has no version of that number.
      </Empty>
    );
  if (!row || !data) return <Loading what={`v${number}`} />;
  const others = rows?.filter((other) => other.number !== null && other.number < number) ?? [];
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title={
          <>
            v{number}: {row.name}
          </>
        }
        aside={`frozen ${row.frozenAt ? dayAndTime(row.frozenAt) : ""} by ${row.createdBy}`}
      >
        <button
          type="button"
          onClick={() => void copyText(row.digest ?? "", "The digest")}
          title={`Digest ${row.digest}`}
          className="flex items-center gap-1 font-mono text-[11.5px] text-ink-2 hover:text-ink"
        >
          <span className="sr-only">Copy the digest </span>
          {row.digest?.slice(0, 16)} <Copy size={11} aria-hidden="true" />
        </button>
        <Button asChild title="How each output came about: its source, its draw, its labels; a line each">
          <a href={`/api/versions/${row.id}/manifest`} download>
            Manifest
          </a>
        </Button>
        <Button asChild>
          <Link href={`/c/${collection}/checks?version=${number}`}>Check it</Link>
        </Button>
        {others[0]?.number ? (
          <Button asChild>
            <Link href={`/c/${collection}/versions/compare?first=${others[0].number}&second=${number}`}>
              Compare with v{others[0].number}
            </Link>
          </Button>
        ) : null}
      </PageHead>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,580px)] gap-x-10 gap-y-6 px-5">
        <div>
          <p className="pb-1">
            <b className="font-semibold">{count(data.card.images, "image")}</b>,{" "}
            <b className="font-semibold">{count(data.card.objects, "object")}</b>
          </p>
          {row.note ? <p className="pb-3 text-ink-2">{row.note}</p> : null}
          <DataCard card={data.card} version={row.id} />
        </div>
        <div className="flex flex-col gap-7">
          <section aria-label="Packages of this version">
            <h2 className="pb-1 text-[17px]">Packages</h2>
            <VersionPackages row={row} formats={formats} />
          </section>
          <Scores collection={collection} version={row.id} number={number} />
          <DiskUse disk={data.disk} version={row.id} />
        </div>
      </div>
    </main>
  );
}
