"use client";
import type { ItemFilter } from "@larder/core/intake/item-filters";
import type { PreviewItem } from "@larder/server/services/intake/preview";
import type { SheetNumbers } from "@larder/server/services/intake/sheet-numbers";
import { keepPreviousData, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { toast } from "sonner";
import { Fragment, useEffect, useLayoutEffect, useRef, useState } from "react";
import { api } from "@/features/live/api";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { Menu, MenuItem } from "@/ui/menu";
import { Pill } from "@/ui/pill";
import { Trouble } from "@/ui/states";
import { useCellKeys } from "@/ui/use-cell-keys";
import { count, number } from "@/ui/words";
import type { ClassLook, DeliveryRow } from "./delivery-row";
import { LookAt, shapesOf } from "./look-at";
import type { Shown } from "./use-shown";

function saidOf(item: PreviewItem): string {
  if (item.unreadable) return "not an image";
  if (item.leftOut) return "left out";
  if (item.there) return "in stock";
  if (item.state !== "labeled") return item.state;
  return item.classes.join(", ") || (item.near ? "near-copy" : "");
}

function objectWords({ objects }: PreviewItem): string {
  const classes = [...new Set(objects.map((object) => object.class))];
  return `${count(objects.length, "object")}${classes.length > 0 ? ` of ${classes.join(", ")}` : ""}`;
}

function PreviewPicture({
  delivery,
  item,
  look,
  onToggle,
  onOpen,
  locked,
  height,
  index,
  isCurrent,
}: {
  delivery: number;
  item: PreviewItem;
  index: number;
  /** Whether the keyboard stops here. */
  isCurrent: boolean;
  look: ClassLook;
  /** `extend` is true where all up to this one are meant. */
  onToggle: (extend: boolean) => void;
  onOpen: () => void;
  locked: boolean;
  height: number;
}) {
  const description = saidOf(item);
  // The keyboard goes over what cannot be left out, too.
  const isFixed = locked || item.unreadable !== null;
  return (
    <div className="group relative">
      <button
        type="button"
        aria-disabled={isFixed}
        onClick={(event) => !isFixed && onToggle(event.shiftKey)}
        style={{ height }}
        data-index={index}
        tabIndex={isCurrent ? 0 : -1}
        aria-pressed={item.leftOut}
        title={item.unreadable ? `${item.path}: ${item.unreadable}` : item.path}
        aria-label={`${item.path}: ${objectWords(item)}${description ? `, ${description}` : ""}`}
        className="relative block w-full overflow-hidden rounded-sm bg-well"
      >
        {item.unreadable ? null : (
          <img
            src={`/api/deliveries/${delivery}/items/${item.ordinal}`}
            alt=""
            className={`absolute inset-0 size-full object-contain ${item.leftOut ? "opacity-30" : ""}`}
          />
        )}
        {item.size && !item.leftOut ? (
          <Shapes width={item.size.width} height={item.size.height} shapes={shapesOf(item.objects, look)} />
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
          tabIndex={isCurrent ? 0 : -1}
          aria-label={`Look at ${item.path}`}
          className="absolute top-1.5 right-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink opacity-0 group-hover:opacity-100 focus-visible:opacity-100"
        >
          look
        </button>
      )}
    </div>
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
  { value: "repeats", words: "repeats", of: (numbers) => numbers.repeats },
  { value: "near-copies", words: "near-copies", of: (numbers) => numbers.nearCopies },
  { value: "unreadable", words: "not images", of: (numbers) => numbers.unreadable },
  { value: "left-out", words: "left out", of: (numbers) => numbers.leftOut },
];

type Which = { ordinals?: number[]; range?: [number, number]; folder?: string; shown?: object };

/** Leaves out, or takes back, all pictures of a folder. */
function ByFolder({
  folders,
  leave,
}: {
  folders: SheetNumbers["folders"];
  leave: (which: Which, leftOut: boolean) => void;
}) {
  return (
    <Menu
      trigger={
        <Button small look="quiet">
          By folder
        </Button>
      }
    >
      {folders.map(({ folder, images }) => (
        <Fragment key={folder}>
          <MenuItem onSelect={() => leave({ folder }, true)}>
            Leave out {folder}, {count(images, "image")}
          </MenuItem>
          <MenuItem onSelect={() => leave({ folder }, false)}>Take back {folder}</MenuItem>
        </Fragment>
      ))}
    </Menu>
  );
}

const pageSize = 60;
const least = 150;
const gap = 6;

/** The images as they would come in, as many as there are; a click leaves one out, with Shift all up to it. */
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
  const [open, setOpen] = useState<number | null>(null);
  const { filter, finding } = shown;
  const ground = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(600);
  useLayoutEffect(() => {
    const element = ground.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const columns = Math.max(1, Math.floor((width + gap) / (least + gap)));
  const height = Math.round(((width - gap * (columns - 1)) / columns) * 0.75);

  const fetchPage = async (page: number, signal: AbortSignal) =>
    api<{ total: number; items: PreviewItem[] }>(
      `/api/deliveries/${delivery.id}/items?filter=${filter}${finding ? `&finding=${finding}` : ""}&offset=${page * pageSize}&limit=${pageSize}`,
      { signal },
    );
  const pageQuery = (page: number) => ({
    queryKey: ["delivery-items", delivery.id, filter, finding, page],
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchPage(page, signal),
  });
  const first = useQuery({ ...pageQuery(0), placeholderData: keepPreviousData });
  const total = first.data?.total ?? 0;
  const virtual = useVirtualizer({
    count: Math.ceil(total / columns),
    getScrollElement: () => ground.current,
    estimateSize: () => height + gap,
    overscan: 2,
  });
  useEffect(() => virtual.measure(), [virtual, height]);
  const { current, setCurrent, moveBy } = useCellKeys(ground, { total, columns, pitch: height + gap }, (row) =>
    virtual.scrollToIndex(row, { align: "auto" }),
  );
  const rows = virtual.getVirtualItems();
  const from = Math.floor(((rows[0]?.index ?? 0) * columns) / pageSize);
  const to = Math.floor((((rows.at(-1)?.index ?? 0) + 1) * columns - 1) / pageSize);
  const wanted = new Set([...Array.from({ length: Math.max(1, to - from + 1) }, (_, n) => from + n)]);
  if (open !== null) wanted.add(Math.floor(open / pageSize));
  const pageNumbers = [...wanted].sort((a, b) => a - b);
  const pages = useQueries({ queries: pageNumbers.map(pageQuery) });
  const itemAt = (index: number): PreviewItem | undefined =>
    pages[pageNumbers.indexOf(Math.floor(index / pageSize))]?.data?.items[index % pageSize];

  const locked = delivery.status !== "read";
  const leave = async (which: Which, leftOut: boolean) => {
    try {
      await api(`/api/deliveries/${delivery.id}/leave-out`, { method: "POST", body: { ...which, leftOut } });
      await Promise.all([
        client.invalidateQueries({ queryKey: ["delivery-items", delivery.id] }),
        client.invalidateQueries({ queryKey: ["delivery", delivery.id, "numbers"] }),
      ]);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const now = { filter, ...(finding ? { finding } : {}) };
  const anchor = useRef<PreviewItem | null>(null);
  const toggle = (item: PreviewItem, extend: boolean) => {
    const leftOut = extend && anchor.current ? !anchor.current.leftOut : !item.leftOut;
    if (extend && anchor.current) void leave({ range: [anchor.current.ordinal, item.ordinal], shown: now }, leftOut);
    else {
      anchor.current = item;
      void leave({ ordinals: [item.ordinal] }, leftOut);
    }
  };
  const entries = filters.filter(
    ({ value, of }) => value === "all" || value === filter || (numbers !== undefined && of(numbers) > 0),
  );
  const looked = open === null ? undefined : itemAt(open);
  const some = !locked && total > 0 && (filter !== "all" || finding) && filter !== "unreadable";
  return (
    <section className="flex min-w-0 flex-col p-5" aria-label="Images of the delivery">
      <div className="mb-3 flex items-baseline gap-4">
        <h2 className="text-[15px]">Images</h2>
        <div className="ml-auto flex flex-wrap justify-end gap-1.5">
          {finding ? (
            <Pill pressed onClick={() => onShow({ filter: "all", finding: null })}>
              of one finding ✕
            </Pill>
          ) : null}
          {entries.map(({ value, words, of }) => (
            <Pill
              key={value}
              pressed={!finding && filter === value}
              onClick={() => onShow({ filter: value, finding: null })}
            >
              {words} {numbers ? number(of(numbers)) : ""}
            </Pill>
          ))}
        </div>
      </div>
      {first.error ? <Trouble error={first.error} /> : null}
      {!first.data && !first.error ? <p className="py-10 text-center text-ink-3">Fetching the images …</p> : null}
      {first.data && total === 0 ? <p className="py-10 text-center text-ink-3">No image of this kind.</p> : null}
      <div
        ref={ground}
        className="max-h-[72vh] min-h-0 overflow-y-auto"
        data-testid="delivery-images"
        onKeyDown={moveBy}
      >
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {rows.map((row) => (
            <div
              key={row.key}
              className="absolute inset-x-0 grid"
              style={{ top: row.start, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap }}
            >
              {Array.from({ length: Math.min(columns, total - row.index * columns) }, (_, column) => {
                const index = row.index * columns + column;
                const item = itemAt(index);
                return item ? (
                  <PreviewPicture
                    key={item.ordinal}
                    delivery={delivery.id}
                    item={item}
                    index={index}
                    isCurrent={index === current}
                    look={look}
                    locked={locked}
                    height={height}
                    onOpen={() => setOpen(index)}
                    onToggle={(extend) => {
                      setCurrent(index);
                      toggle(item, extend);
                    }}
                  />
                ) : (
                  <div key={index} className="rounded-sm bg-well" style={{ height }} />
                );
              })}
            </div>
          ))}
        </div>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-3 text-small text-ink-3">
        <span>
          {locked
            ? ""
            : filter === "repeats"
              ? "The same bytes stand side by side; of each the first that is not left out is taken."
              : "Click an image to leave it out; with Shift, all up to it."}
        </span>
        {some ? (
          <Button small look="quiet" onClick={() => void leave({ shown: now }, filter !== "left-out")}>
            {filter === "left-out" ? `Take all ${number(total)} back` : `Leave all ${number(total)} out`}
          </Button>
        ) : null}
        {!locked && (numbers?.folders.length ?? 0) > 1 ? (
          <ByFolder folders={numbers?.folders ?? []} leave={(which, leftOut) => void leave(which, leftOut)} />
        ) : null}
      </div>
      {open !== null && looked ? (
        <LookAt
          delivery={delivery.id}
          item={looked}
          place={open}
          total={total}
          look={look}
          onStep={(by) => setOpen(open + by)}
          onDone={() => setOpen(null)}
        />
      ) : null}
    </section>
  );
}
