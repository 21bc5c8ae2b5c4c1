"use client";
import type { PreviewItem } from "@larder/server/services/intake/preview";
import type { ItemFilter } from "@larder/server/services/intake/shown-items";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { Dialog } from "@/ui/dialog";
import { Pill } from "@/ui/pill";
import { Trouble } from "@/ui/states";
import { count, number } from "@/ui/words";
import type { ClassLook, DeliveryRow } from "./delivery-row";

const perPage = 20;

function saidOf(item: PreviewItem): string {
  if (item.unreadable) return "not an image";
  if (item.leftOut) return "left out";
  if (item.there) return "in stock";
  if (item.state !== "labeled") return item.state;
  return item.classes.join(", ") || (item.near ? "near-copy" : "");
}

const shapesOf = (
  objects: readonly { class: string; shape: PreviewItem["objects"][number]["shape"] }[],
  look: ClassLook,
) => objects.map((object, key) => ({ key, shape: object.shape, colour: look.get(object.class) ?? classColour(0) }));

function PreviewPicture({
  delivery,
  item,
  look,
  onToggle,
  onOpen,
  locked,
}: {
  delivery: number;
  item: PreviewItem;
  look: ClassLook;
  onToggle: () => void;
  onOpen: () => void;
  locked: boolean;
}) {
  const description = saidOf(item);
  return (
    <div className="group relative">
      <button
        type="button"
        disabled={locked || item.unreadable !== null}
        onClick={onToggle}
        aria-pressed={item.leftOut}
        title={item.unreadable ? `${item.path}: ${item.unreadable}` : item.path}
        aria-label={`${item.path}: ${count(item.objects.length, "object")}${description ? `, ${description}` : ""}`}
        className="relative block aspect-[4/3] w-full overflow-hidden rounded-sm bg-well"
      >
        {item.unreadable ? null : (
          <img
            src={`/api/deliveries/${delivery}/items/${item.ordinal}`}
            alt=""
            className={`absolute inset-0 size-full object-cover ${item.leftOut ? "opacity-30" : ""}`}
          />
        )}
        {item.size && !item.leftOut ? (
          <Shapes cover width={item.size.width} height={item.size.height} shapes={shapesOf(item.objects, look)} />
        ) : null}
        {description ? (
          <span
            className={`absolute bottom-1.5 left-1.5 max-w-[calc(100%-12px)] truncate rounded-sm px-1.5 text-[11.5px] ${item.unreadable ? "bg-harm text-white" : "bg-dim/85 text-dim-ink"}`}
          >
            {description}
          </span>
        ) : null}
      </button>
      {item.unreadable ? null : (
        <button
          type="button"
          onClick={onOpen}
          aria-label={`Look at ${item.path}`}
          className="absolute top-1.5 right-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
        >
          look
        </button>
      )}
    </div>
  );
}

function Large({
  src,
  title,
  size,
  objects,
  look,
}: {
  src: string;
  title: string;
  size: { width: number; height: number };
  objects: readonly { class: string; shape: PreviewItem["objects"][number]["shape"] }[];
  look: ClassLook;
}) {
  return (
    <figure className="min-w-0 flex-1">
      <figcaption className="mb-1 font-semibold">
        {title} <span className="font-normal text-ink-3">{count(objects.length, "object")}</span>
      </figcaption>
      <div
        className="relative overflow-hidden rounded-sm bg-dim"
        style={{ aspectRatio: `${size.width} / ${size.height}` }}
      >
        <img src={src} alt="" className="absolute inset-0 size-full" />
        <Shapes width={size.width} height={size.height} shapes={shapesOf(objects, look)} />
      </div>
    </figure>
  );
}

/**
 * One picture larger, with all that is said of it; beside it what stock says of the same bytes, or the picture that is
 * nearly the same.
 */
function LookAt({
  delivery,
  item,
  look,
  onDone,
}: {
  delivery: number;
  item: PreviewItem;
  look: ClassLook;
  onDone: () => void;
}) {
  const size = item.size ?? { width: 4, height: 3 };
  const src = `/api/deliveries/${delivery}/items/${item.ordinal}`;
  // Of the very same bytes there is no more to compare.
  const near = item.there ? null : item.near;
  const words = new Map<string, number>();
  for (const object of item.objects) words.set(object.class, (words.get(object.class) ?? 0) + 1);
  return (
    <Dialog wide open onOpenChange={(open) => !open && onDone()} title={item.path.split("/").at(-1) ?? item.path}>
      <div className="flex gap-4">
        <Large
          src={src}
          title={item.there || near ? "This picture" : item.state}
          size={size}
          objects={item.objects}
          look={look}
        />
        {item.there ? (
          <Large
            src={src}
            title={`In stock: ${item.there.state}`}
            size={size}
            objects={item.there.objects}
            look={look}
          />
        ) : null}
        {near ? (
          <Large
            src={
              "image" in near
                ? `/api/images/${near.image}/picture`
                : `/api/deliveries/${delivery}/items/${near.ordinal}`
            }
            title={`Nearly the same, ${"image" in near ? "in stock" : "in this delivery"}`}
            size={near.size ?? size}
            objects={near.objects}
            look={look}
          />
        ) : null}
      </div>
      <dl className="mt-3 grid grid-cols-[92px_1fr] gap-x-2 gap-y-1">
        <dt className="text-ink-3">Path</dt>
        <dd className="truncate font-mono text-small">{item.path}</dd>
        {near ? (
          <>
            <dt className="text-ink-3">Beside it</dt>
            <dd className="truncate font-mono text-small">{near.name}</dd>
          </>
        ) : null}
        <dt className="text-ink-3">Size</dt>
        <dd>{item.size ? `${number(item.size.width)} × ${number(item.size.height)}` : "not read yet"}</dd>
        <dt className="text-ink-3">Objects</dt>
        <dd>{[...words].map(([name, n]) => `${number(n)} ${name}`).join(", ") || "none"}</dd>
        {item.classes.length > 0 ? (
          <>
            <dt className="text-ink-3">Classes</dt>
            <dd>{item.classes.join(", ")}</dd>
          </>
        ) : null}
        {item.takenAt ? (
          <>
            <dt className="text-ink-3">Taken</dt>
            <dd>{item.takenAt.replace("T", " ")}</dd>
          </>
        ) : null}
        {item.place ? (
          <>
            <dt className="text-ink-3">Place</dt>
            <dd>{item.place.map((degrees) => degrees.toFixed(5)).join(", ")}</dd>
          </>
        ) : null}
      </dl>
    </Dialog>
  );
}

type FilterEntry = { value: ItemFilter; words: string; of: (numbers: SheetNumbers) => number };
const filters: FilterEntry[] = [
  { value: "all", words: "all", of: (numbers) => numbers.all },
  { value: "findings", words: "findings", of: (numbers) => numbers.withFindings },
  { value: "labeled", words: "labeled", of: (numbers) => numbers.labeled },
  { value: "unlabeled", words: "unlabeled", of: (numbers) => numbers.unlabeled },
  { value: "empty", words: "empty", of: (numbers) => numbers.empty },
  { value: "in-stock", words: "in stock", of: (numbers) => numbers.inStock },
  { value: "near-copies", words: "near-copies", of: (numbers) => numbers.nearCopies },
  { value: "unreadable", words: "not images", of: (numbers) => numbers.unreadable },
  { value: "left-out", words: "left out", of: (numbers) => numbers.leftOut },
];

export type Shown = { filter: ItemFilter; finding: string | null; page: number };

/** The images as they would come in; a click leaves one out. */
export function Preview({
  delivery,
  numbers,
  look,
  shown,
  onShow,
}: {
  delivery: DeliveryRow;
  numbers: SheetNumbers | undefined;
  look: ClassLook;
  shown: Shown;
  onShow: (shown: Shown) => void;
}) {
  const client = useQueryClient();
  const [open, setOpen] = useState<PreviewItem | null>(null);
  const { filter, finding, page } = shown;
  const { data, error } = useQuery({
    queryKey: ["delivery-items", delivery.id, filter, finding, page],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<{ total: number; items: PreviewItem[] }>(
        `/api/deliveries/${delivery.id}/items?filter=${filter}${finding ? `&finding=${finding}` : ""}&offset=${page * perPage}&limit=${perPage}`,
        { signal },
      ),
  });
  const locked = delivery.status !== "read";
  const leave = async (ordinals: number[], leftOut: boolean) => {
    try {
      await api(`/api/deliveries/${delivery.id}/leave-out`, { method: "POST", body: { ordinals, leftOut } });
      await Promise.all([
        client.invalidateQueries({ queryKey: ["delivery-items", delivery.id] }),
        client.invalidateQueries({ queryKey: ["delivery", delivery.id, "numbers"] }),
      ]);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const pages = Math.max(1, Math.ceil((data?.total ?? 0) / perPage));
  const entries = filters.filter(
    ({ value, of }) => value === "all" || value === filter || (numbers !== undefined && of(numbers) > 0),
  );
  return (
    <section className="min-w-0 p-5">
      <div className="mb-3 flex items-baseline gap-4">
        <h2 className="text-[15px]">Images</h2>
        <div className="ml-auto flex flex-wrap justify-end gap-1.5">
          {finding ? (
            <Pill pressed onClick={() => onShow({ filter: "all", finding: null, page: 0 })}>
              of one finding ✕
            </Pill>
          ) : null}
          {entries.map(({ value, words, of }) => (
            <Pill
              key={value}
              pressed={!finding && filter === value}
              onClick={() => onShow({ filter: value, finding: null, page: 0 })}
            >
              {words} {numbers ? number(of(numbers)) : ""}
            </Pill>
          ))}
        </div>
      </div>
      {error ? <Trouble error={error} /> : null}
      {!data && !error ? <p className="py-10 text-center text-ink-3">Fetching the images …</p> : null}
      {data && data.items.length === 0 ? <p className="py-10 text-center text-ink-3">No image of this kind.</p> : null}
      <div className="grid grid-cols-[repeat(auto-fill,minmax(150px,1fr))] gap-1.5">
        {data?.items.map((item) => (
          <PreviewPicture
            key={item.ordinal}
            delivery={delivery.id}
            item={item}
            look={look}
            locked={locked}
            onOpen={() => setOpen(item)}
            onToggle={() => void leave([item.ordinal], !item.leftOut)}
          />
        ))}
      </div>
      <div className="mt-3 flex items-center gap-3 text-small text-ink-3">
        <span>{locked ? "" : "Click an image to leave it out."}</span>
        {!locked && data && data.items.length > 0 && (filter !== "all" || finding) && filter !== "unreadable" ? (
          <Button
            small
            look="quiet"
            onClick={() =>
              void leave(
                data.items.map(({ ordinal }) => ordinal),
                filter !== "left-out",
              )
            }
          >
            {filter === "left-out" ? "Take these back" : "Leave these out"}
          </Button>
        ) : null}
        {pages > 1 ? (
          <span className="ml-auto flex items-center gap-2">
            <Button small disabled={page === 0} onClick={() => onShow({ ...shown, page: page - 1 })}>
              Before
            </Button>
            {number(page * perPage + 1)} to {number(Math.min((page + 1) * perPage, data?.total ?? 0))} of{" "}
            {number(data?.total ?? 0)}
            <Button small disabled={page + 1 >= pages} onClick={() => onShow({ ...shown, page: page + 1 })}>
              Next
            </Button>
          </span>
        ) : null}
      </div>
      {open ? <LookAt delivery={delivery.id} item={open} look={look} onDone={() => setOpen(null)} /> : null}
    </section>
  );
}
