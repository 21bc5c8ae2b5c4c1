"use client";
import type { Delivery, ItemFilter, PreviewItem } from "@larder/server/services/deliveries";
import type { StockImage } from "@larder/server/services/stock";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useState, type ReactNode } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useClasses, useDelivery, useJobs, type Wire } from "@/features/live/queries";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { FindingMark } from "@/ui/marks";
import { PageHead } from "@/ui/page-head";
import { Loading, Trouble } from "@/ui/states";
import { bytes, count, duration, number } from "@/ui/words";
import { UndoDelivery } from "./undo-delivery";

type Row = Wire<Delivery>;
type ClassLook = Map<string, string>;
const perPage = 12;

function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[92px_1fr] gap-2 py-[3px]">
      <dt className="text-ink-3">{label}</dt>
      <dd>{children}</dd>
    </div>
  );
}

function HowItIsRead({ delivery }: { delivery: Row }) {
  const { sheet, taken } = delivery;
  if (!sheet) return null;
  return (
    <section className="p-5">
      <h2 className="mb-2 text-[15px]">How it is read</h2>
      <dl>
        <Fact label="Format">
          <b className="font-semibold">{sheet.format}</b> <span className="text-ink-3">{sheet.reason}</span>
        </Fact>
        <Fact label="Images">{number(sheet.images)}</Fact>
        <Fact label="Labeled">{number(sheet.labeled)}</Fact>
        <Fact label="Empty">{number(sheet.empty)}</Fact>
        <Fact label="Unlabeled">{number(sheet.unlabeled)}</Fact>
        <Fact label="Objects">{number(sheet.objects)}</Fact>
        <Fact label="Splits">
          {sheet.splits.train + sheet.splits.val + sheet.splits.test === 0 ? (
            "none came with it"
          ) : (
            <>
              train {number(sheet.splits.train)}, val {number(sheet.splits.val)}, test {number(sheet.splits.test)}
              {sheet.splits.none > 0 ? `, none ${number(sheet.splits.none)}` : ""} <span className="text-ink-3">kept as they came</span>
            </>
          )}
        </Fact>
        {taken ? (
          <Fact label="Taken in">
            {count(taken.images, "image")}, {count(taken.objects, "object")}
            {taken.skipped > 0 ? `; ${number(taken.skipped)} in stock already` : ""}
            {taken.leftOut > 0 ? `; ${number(taken.leftOut)} left out` : ""}
          </Fact>
        ) : null}
      </dl>
    </section>
  );
}

function PreviewPicture({ delivery, item, look, onToggle, locked }: { delivery: number; item: PreviewItem; look: ClassLook; onToggle: () => void; locked: boolean }) {
  const said = item.unreadable ? "not an image" : item.leftOut ? "left out" : item.state === "labeled" ? item.classes.join(", ") : item.state;
  return (
    <button
      type="button"
      disabled={locked || item.unreadable !== null}
      onClick={onToggle}
      aria-pressed={item.leftOut}
      title={item.path}
      aria-label={`${item.path}: ${count(item.objects.length, "object")}${item.leftOut ? ", left out" : ""}`}
      className="relative block aspect-[4/3] w-full overflow-hidden rounded-sm bg-well"
    >
      {item.unreadable ? null : <img src={`/api/deliveries/${delivery}/items/${item.ordinal}`} alt="" className={`absolute inset-0 size-full object-cover ${item.leftOut ? "opacity-30" : ""}`} />}
      {item.size && !item.leftOut ? (
        <Shapes cover width={item.size.width} height={item.size.height} shapes={item.objects.map((object, key) => ({ key, shape: object.shape, colour: look.get(object.class) ?? classColour(0) }))} />
      ) : null}
      {said ? <span className={`absolute bottom-1.5 left-1.5 rounded-sm px-1.5 text-[11.5px] ${item.unreadable ? "bg-harm text-white" : "bg-dim/85 text-dim-ink"}`}>{said}</span> : null}
    </button>
  );
}

const filterWords: [ItemFilter, string][] = [
  ["all", "all"],
  ["labeled", "labeled"],
  ["unlabeled", "unlabeled"],
  ["empty", "empty"],
  ["unreadable", "not images"],
  ["left-out", "left out"],
];

function Preview({ delivery, look }: { delivery: Row; look: ClassLook }) {
  const client = useQueryClient();
  const [filter, setFilter] = useState<ItemFilter>("all");
  const [page, setPage] = useState(0);
  const key = ["delivery-items", delivery.id, filter, page];
  const { data, error } = useQuery({
    queryKey: key,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<{ total: number; leftOut: number; items: PreviewItem[] }>(`/api/deliveries/${delivery.id}/items?filter=${filter}&offset=${page * perPage}&limit=${perPage}`, { signal }),
  });
  const locked = delivery.status !== "read";
  const toggle = async (item: PreviewItem) => {
    try {
      await api(`/api/deliveries/${delivery.id}/leave-out`, { method: "POST", body: { ordinals: [item.ordinal], leftOut: !item.leftOut } });
      await client.invalidateQueries({ queryKey: ["delivery-items", delivery.id] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const pages = Math.max(1, Math.ceil((data?.total ?? 0) / perPage));
  return (
    <section className="min-w-0 p-5">
      <div className="mb-3 flex flex-wrap items-center gap-1.5">
        <h2 className="mr-auto text-[15px]">Images</h2>
        {filterWords.map(([value, words]) => (
          <button
            key={value}
            type="button"
            aria-pressed={filter === value}
            onClick={() => {
              setFilter(value);
              setPage(0);
            }}
            className="rounded-full border border-rule-strong px-2 text-[12px] leading-[19px] aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-sheet"
          >
            {words}
          </button>
        ))}
      </div>
      {error ? <Trouble error={error} /> : null}
      {data && data.items.length === 0 ? <p className="py-10 text-center text-ink-3">No image of this kind.</p> : null}
      <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-1.5">
        {data?.items.map((item) => (
          <PreviewPicture key={item.ordinal} delivery={delivery.id} item={item} look={look} locked={locked} onToggle={() => void toggle(item)} />
        ))}
      </div>
      <div className="mt-3 flex items-center gap-3 text-small text-ink-3">
        <span>{locked ? "" : "Click an image to leave it out."}</span>
        {pages > 1 ? (
          <span className="ml-auto flex items-center gap-2">
            <Button small disabled={page === 0} onClick={() => setPage(page - 1)}>
              Before
            </Button>
            {number(page * perPage + 1)} to {number(Math.min((page + 1) * perPage, data?.total ?? 0))} of {number(data?.total ?? 0)}
            <Button small disabled={page + 1 >= pages} onClick={() => setPage(page + 1)}>
              Next
            </Button>
          </span>
        ) : null}
      </div>
    </section>
  );
}

/** The first of the images that a delivery brought, as they stand in stock now. */
function Brought({ collection, delivery }: { collection: number; delivery: Row }) {
  const { data: classes } = useClasses(collection);
  const { data } = useQuery({ queryKey: ["stock", collection, "brought", delivery.id], queryFn: ({ signal }) => api<{ images: StockImage[] }>(`/api/collections/${collection}/stock?delivery=${delivery.id}&offset=0&limit=16`, { signal }) });
  const colours = new Map(classes?.map((row) => [row.id, classColour(row.colour)]));
  return (
    <section className="min-w-0 p-5">
      <div className="mb-3 flex items-baseline gap-3">
        <h2 className="text-[15px]">Images</h2>
        <Link className="ml-auto text-ink-2 underline hover:text-ink" href={`/c/${collection}/stock?delivery=${delivery.id}`}>
          all {count(delivery.taken?.images ?? 0, "image")} in stock
        </Link>
      </div>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-1.5">
        {data?.images.map((image) => (
          <Link key={image.id} href={`/c/${collection}/stock/${image.id}?delivery=${delivery.id}`} aria-label={image.name} className="relative block aspect-[4/3] overflow-hidden rounded-sm bg-well">
            <img src={`/api/images/${image.id}/thumbnail`} alt="" className="absolute inset-0 size-full object-cover" />
            <Shapes cover width={image.width} height={image.height} shapes={image.objects.map((object, key) => ({ key, shape: object.shape, colour: colours.get(object.classId) ?? classColour(0) }))} />
            {image.state === "labeled" ? null : <span className="absolute bottom-1.5 left-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink">{image.state}</span>}
          </Link>
        ))}
      </div>
    </section>
  );
}

function FindingList({ delivery }: { delivery: Row }) {
  const findings = delivery.status === "taken" ? delivery.findings : (delivery.sheet?.findings ?? []);
  return (
    <section className="p-5">
      <h2 className="mb-1 text-[15px]">Findings</h2>
      {findings.length === 0 ? <p className="text-ink-3">Nothing out of the ordinary.</p> : null}
      <ul>
        {findings.map((finding) => {
          const [sentence, examples] = finding.message.split(" For example: ");
          return (
            <li key={finding.code} className="flex gap-3 border-b border-rule py-2.5 last:border-b-0">
              <FindingMark severity={finding.severity} />
              <div className="min-w-0">
                <p className="font-semibold">{sentence}</p>
                {examples ? <p className="mt-0.5 text-[12.5px] break-words text-ink-2">{examples}</p> : null}
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function ClassTable({ delivery, look }: { delivery: Row; look: ClassLook }) {
  const { data: known } = useClasses(delivery.collectionId);
  const names = new Set(known?.map((row) => row.name));
  if (!delivery.sheet || delivery.sheet.classes.length === 0) return null;
  return (
    <section className="border-t border-rule px-5 py-4">
      <h2 className="mb-1 text-[15px]">Classes</h2>
      <table className="ledger max-w-[820px]">
        <thead>
          <tr>
            <th>In the delivery</th>
            <th className="number">Images</th>
            <th className="number">Objects</th>
            <th className="pl-8">In the collection</th>
          </tr>
        </thead>
        <tbody>
          {delivery.sheet.classes.map((row) => (
            <tr key={row.name}>
              <td>
                <span aria-hidden="true" className="mr-2 inline-block size-2.5 rounded-[2px]" style={{ background: look.get(row.name) }} />
                {row.name}
              </td>
              <td className="number">{number(row.images)}</td>
              <td className="number">{number(row.objects)}</td>
              <td className="pl-8 text-ink-2">{names.has(row.name) ? "the same name is there" : "new to this collection"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Working({ delivery }: { delivery: Row }) {
  const { data: jobs } = useJobs();
  const job = jobs?.find((candidate) => candidate.subject === delivery.id && (candidate.kind === "read-delivery" || candidate.kind === "take-in") && (candidate.status === "running" || candidate.status === "queued"));
  const share = job && job.total > 0 ? job.done / job.total : 0;
  const seconds = job?.startedAt ? (Date.now() - new Date(job.startedAt).getTime()) / 1000 : 0;
  return (
    <div role="status" className="border-y border-rule bg-info-wash px-5 py-3">
      <div className="flex items-center gap-3">
        <span className="font-semibold">{job?.message || (delivery.status === "taking" ? "Taking in" : "Reading")}</span>
        <span className="text-ink-2">
          {job && job.total > 0 ? `${number(job.done)} of ${number(job.total)}` : "starting"}
          {job && job.done > 10 && seconds > 4 ? ` · about ${duration((seconds / job.done) * (job.total - job.done))} left` : ""}
        </span>
        {job ? (
          <Button small className="ml-auto" disabled={job.stopRequested} onClick={() => void api(`/api/jobs/${job.id}/stop`, { method: "POST" })}>
            {job.stopRequested ? "Stopping" : "Stop"}
          </Button>
        ) : null}
      </div>
      <div className="mt-2 h-[5px] overflow-hidden rounded-sm bg-sheet">
        <div className="h-full bg-info" style={{ width: `${share * 100}%` }} />
      </div>
    </div>
  );
}

/** What was found in a delivery and how it will be read, before anything is stored; after that, what it brought. */
export function IntakeSheet({ collection, id }: { collection: number; id: number }) {
  const client = useQueryClient();
  const { data: delivery, error } = useDelivery(id);
  const { data: known } = useClasses(collection);
  const [aside, setAside] = useState(false);
  const { data: counts } = useQuery({ queryKey: ["delivery-items", id, "counts"], enabled: delivery?.status === "read", queryFn: ({ signal }) => api<{ leftOut: number }>(`/api/deliveries/${id}/items?filter=left-out&offset=0&limit=1`, { signal }) });
  if (error) return <Trouble error={error} />;
  if (!delivery) return <Loading what="the delivery" />;
  // Known classes keep their colour; new ones get the colours they will have.
  const look: ClassLook = new Map(known?.map((row) => [row.name, classColour(row.colour)]));
  let next = known?.length ?? 0;
  for (const row of delivery.sheet?.classes ?? []) if (!look.has(row.name)) look.set(row.name, classColour(next++));
  const busy = delivery.status === "waiting" || delivery.status === "reading" || delivery.status === "taking";
  const images = (delivery.sheet?.images ?? 0) - (counts?.leftOut ?? 0);
  const act = async (path: string) => {
    try {
      await api(`/api/deliveries/${id}/${path}`, { method: "POST" });
      await client.invalidateQueries();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title={delivery.name} aside={`${delivery.source} · ${bytes(delivery.bytes)}${delivery.sheet ? ` · read in ${duration(delivery.sheet.seconds)}` : ""}`}>
        <Button disabled={busy} onClick={() => setAside(true)}>
          {delivery.status === "taken" ? "Undo delivery" : "Put aside"}
        </Button>
        {delivery.status === "read" ? (
          <Button look="go" disabled={images <= 0} onClick={() => void act("take-in")}>
            Take in {count(images, "image")}
          </Button>
        ) : null}
        {delivery.status === "taken" ? (
          <Button look="go" asChild>
            <Link href={`/c/${collection}/stock?delivery=${id}`}>See it in stock</Link>
          </Button>
        ) : null}
      </PageHead>
      {delivery.failure ? (
        <div role="alert" className="mx-5 mb-4 flex items-center gap-4 rounded-md border border-harm bg-harm-wash px-4 py-3">
          <p>{delivery.failure}</p>
          {delivery.status === "failed" ? (
            <Button small className="ml-auto" onClick={() => void act("read-again")}>
              Read again
            </Button>
          ) : null}
        </div>
      ) : null}
      {busy ? <Working delivery={delivery} /> : null}
      {delivery.sheet ? (
        <>
          <div className="grid grid-cols-[280px_1fr_296px] border-t border-rule bg-sheet [&>*]:border-r [&>*]:border-rule [&>*:last-child]:border-r-0">
            <HowItIsRead delivery={delivery} />
            {delivery.status === "taken" ? (
              <Brought collection={collection} delivery={delivery} />
            ) : (
              <Preview delivery={delivery} look={look} />
            )}
            <FindingList delivery={delivery} />
          </div>
          <ClassTable delivery={delivery} look={look} />
        </>
      ) : null}
      {aside ? <UndoDelivery delivery={delivery} onDone={() => setAside(false)} /> : null}
    </main>
  );
}
