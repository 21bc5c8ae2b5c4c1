"use client";
import type { VersionRow } from "@larder/server/services/versions";
import { useQueryClient } from "@tanstack/react-query";
import { Copy, Download } from "lucide-react";
import Link from "next/link";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useExports, useJobs, useVersions, type Wire } from "@/features/live/queries";
import { stepSummaries } from "@/features/plans/step-summaries";
import { Button } from "@/ui/button";
import { FindingMark, SplitMark } from "@/ui/marks";
import { Menu, MenuItem } from "@/ui/menu";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { bytes, count, dayAndTime, number } from "@/ui/words";
import { PackDialog } from "./pack-dialog";

type Row = Wire<VersionRow>;
type Pack = Row["packages"][number];

async function copy(text: string, what: string) {
  try {
    await navigator.clipboard.writeText(text);
    toast(`${what} is copied.`);
  } catch {
    toast(text, { duration: 15_000 });
  }
}

function PackageRow({ pack }: { pack: Pack }) {
  const link = `/packages/${pack.id}/${pack.fileName}`;
  return (
    <li className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-rule py-1.5 last:border-b-0">
      <span className="w-[104px] shrink-0 font-semibold">{pack.format}</span>
      {pack.status === "ready" ? (
        <>
          <Button small asChild>
            <a href={link} download={pack.fileName} data-testid={`download-${pack.format}`}>
              <Download size={13} aria-hidden="true" /> {bytes(pack.bytes ?? 0)}
            </a>
          </Button>
          <button
            type="button"
            title={`SHA-256 ${pack.sha256}`}
            data-testid={`sha256-${pack.format}`}
            onClick={() => void copy(pack.sha256 ?? "", "The SHA-256")}
            className="flex items-center gap-1 font-mono text-[11.5px] text-ink-2 hover:text-ink"
          >
            <span className="sr-only">Copy the SHA-256 </span>
            {pack.sha256?.slice(0, 12)} <Copy size={11} aria-hidden="true" />
          </button>
          <button
            type="button"
            onClick={() => void copy(`curl -fLO -C - ${location.origin}${link}`, "A line of shell")}
            className="text-small text-ink-2 underline hover:text-ink"
          >
            shell
          </button>
          {pack.findings.length > 0 ? (
            <ul aria-label={`What ${pack.format} could not carry`} className="w-full pl-[116px]">
              {pack.findings.map((finding) => (
                <li key={finding.code} className="flex gap-1.5 text-small text-ink-3" title={finding.message}>
                  <FindingMark severity="warning" />
                  {finding.sentence}
                </li>
              ))}
            </ul>
          ) : null}
        </>
      ) : (
        <span className={pack.status === "failed" ? "text-harm" : "text-info"}>
          {pack.status === "failed" ? pack.failure : "being packed"}
        </span>
      )}
    </li>
  );
}

function Building({ row }: { row: Row }) {
  const { data: jobs } = useJobs();
  const job = jobs?.find((candidate) => candidate.kind === "build-version" && candidate.subject === row.id);
  const share = job && job.total > 0 ? job.done / job.total : 0;
  return (
    <div className="max-w-md">
      <p className="text-info">
        {job?.message || "Waiting for its turn"}
        {job && job.total > 0 ? `: ${number(job.done)} of ${number(job.total)}` : ""}
      </p>
      <div className="mt-1.5 h-[5px] overflow-hidden rounded-sm bg-well">
        <div className="h-full bg-info" style={{ width: `${share * 100}%` }} />
      </div>
    </div>
  );
}

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

function VersionEntry({ row, before, formats }: { row: Row; before: Row | undefined; formats: readonly string[] }) {
  const client = useQueryClient();
  const [packing, setPacking] = useState<string | null>(null);
  const missing = formats.filter(
    (format) => !row.packages.some((pack) => pack.format === format && pack.status !== "failed"),
  );
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
      className="grid grid-cols-[64px_minmax(0,1fr)_minmax(0,540px)] gap-x-6 border-b border-rule py-4"
      data-testid={row.number ? `version-${row.number}` : "version-building"}
    >
      <b className="font-title text-[24px] leading-none font-semibold tracking-[-0.02em]">
        {row.number ? `v${row.number}` : "…"}
      </b>
      <div className="min-w-0">
        <p className="flex items-baseline gap-3">
          <span className="truncate font-semibold" title={row.name}>
            {row.name}
          </span>
          <span className="shrink-0 text-ink-3">{dayAndTime(row.frozenAt ?? row.createdAt)}</span>
        </p>
        {row.note ? <p className="text-ink-2">{row.note}</p> : null}
        {row.status === "building" ? <Building row={row} /> : null}
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
                onClick={() => void copy(row.digest ?? "", "The digest")}
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
      {row.status === "frozen" ? (
        <div>
          <ul>
            {row.packages.map((pack) => (
              <PackageRow key={pack.id} pack={pack} />
            ))}
          </ul>
          {missing.length > 0 ? (
            <div className="mt-2">
              <Menu align="start" trigger={<Button small>Pack as …</Button>}>
                {missing.map((format) => (
                  <MenuItem key={format} onSelect={() => setPacking(format)}>
                    {format}
                  </MenuItem>
                ))}
              </Menu>
              {packing && row.number ? (
                <PackDialog version={row.id} number={row.number} format={packing} close={() => setPacking(null)} />
              ) : null}
            </div>
          ) : null}
        </div>
      ) : null}
    </li>
  );
}

/** Selections that were packed as they are: no versions, and to be removed when they are not needed any more. */
function PackedSelections({ rows }: { rows: readonly Row[] }) {
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
              {row.status === "building" ? <Building row={row} /> : null}
              {row.status === "failed" ? <p className="text-harm">{row.failure}</p> : null}
              {row.numbers ? (
                <p className="text-ink-2">
                  {count(row.numbers.images, "image")}, {count(row.numbers.objects, "object")}
                </p>
              ) : null}
            </div>
            <ul>
              {row.packages.map((pack) => (
                <PackageRow key={pack.id} pack={pack} />
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

/** The frozen data sets, newest first, each with its packages. */
export function Versions({ collection, formats }: { collection: number; formats: readonly string[] }) {
  const { data, error, refetch } = useVersions(collection);
  const { data: exports } = useExports(collection);
  const [limit, setLimit] = useState(50);
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the versions" />;
  if (data.length === 0 && exports?.length === 0) {
    return (
      <Empty
        title="Nothing built yet"
        action={
          <Button look="go" asChild>
            <Link href={`/c/${collection}/plans`}>To the plans</Link>
          </Button>
        }
      >
        Build a plan, and its data set is frozen here under a number and a digest, ready to download.
      </Empty>
    );
  }
  const frozen = data.filter((row) => row.number !== null);
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title="Versions" aside={count(frozen.length, "version")}>
        {frozen.length > 1 ? (
          <Button asChild>
            <Link href={`/c/${collection}/versions/compare`}>Compare two</Link>
          </Button>
        ) : null}
      </PageHead>
      <ul className="border-t border-rule px-5">
        {data.slice(0, limit).map((row) => (
          <VersionEntry
            key={row.id}
            row={row}
            formats={formats}
            before={row.number ? frozen.find((other) => other.number === (row.number as number) - 1) : undefined}
          />
        ))}
      </ul>
      {data.length > limit ? (
        <div className="p-5">
          <Button onClick={() => setLimit(limit + 50)}>Show older ones</Button>
        </div>
      ) : null}
      {exports && exports.length > 0 ? <PackedSelections rows={exports} /> : null}
    </main>
  );
}
