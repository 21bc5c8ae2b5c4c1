"use client";
import type { Facets } from "@larder/core/snapshot/facets";
import type { StockImage } from "@larder/server/services/stock";
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type MouseEvent } from "react";
import { toast } from "sonner";
import { api, ApiError } from "@/features/live/api";
import { useClasses } from "@/features/live/queries";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, number } from "@/ui/words";
import { FilterLine } from "./filter-line/filter-line";
import { Histograms } from "./histograms";
import { everything, holds, idsBetween, nothing, selectionOf, sizeOf, toggled, withMore, type Picked } from "./picked";
import { rememberPlace, takePlace } from "./place";
import { Tray } from "./tray/tray";
import { SortMenu } from "./sort-menu";
import { useSelection } from "./use-selection";
import { useView, type View } from "./use-view";
import { ViewMenu } from "./view-menu";

const pageSize = 60;
const gap = 8;

type Looks = Map<number, { name: string; colour: string }>;

function ClassStrip({ image, looks }: { image: StockImage; looks: Looks }) {
  const counts = new Map<number, number>();
  for (const object of image.objects) counts.set(object.classId, (counts.get(object.classId) ?? 0) + 1);
  for (const id of image.imageClassIds) counts.set(id, (counts.get(id) ?? 0) + 1);
  return (
    <span className="mt-[3px] flex h-[3px] gap-px bg-well" aria-hidden="true">
      {[...counts].map(([id, n]) => (
        <span key={id} style={{ flexGrow: n, background: looks.get(id)?.colour }} />
      ))}
    </span>
  );
}

function Cell({
  image,
  looks,
  selected,
  height,
  onClick,
  onOpen,
  index,
  current,
  view,
}: {
  image: StockImage | undefined;
  view: View;
  looks: Looks;
  selected: boolean;
  height: number;
  onClick: (event: MouseEvent) => void;
  onOpen: () => void;
  index: number;
  /** Whether the keyboard comes to this one when it comes to the grid. */
  current: boolean;
}) {
  if (!image) return <div role="gridcell" aria-busy className="rounded-sm bg-well" style={{ height }} />;
  const imageClasses = image.imageClassIds.map((id) => looks.get(id)?.name).filter(Boolean);
  return (
    <div
      role="gridcell"
      aria-selected={selected}
      className={selected ? "outline-[3px] outline-offset-2 outline-act outline-solid" : ""}
      style={{ height }}
    >
      <button
        type="button"
        data-index={index}
        tabIndex={current ? 0 : -1}
        onClick={onClick}
        onDoubleClick={onOpen}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            onOpen();
          }
        }}
        className="block w-full text-left outline-offset-0"
      >
        <span className="relative block overflow-hidden rounded-t-[2px] bg-well" style={{ height: height - 30 }}>
          <img
            src={`/api/images/${image.id}/thumbnail`}
            alt=""
            loading="lazy"
            draggable={false}
            className="absolute inset-0 size-full object-contain"
            style={{ filter: view.filter }}
          />
          <Shapes
            width={image.width}
            height={image.height}
            filled={view.shapes === "filled"}
            shapes={image.objects.flatMap((object, key) => {
              const look = looks.get(object.classId);
              if (view.shapes === "off" || (look && view.hide.includes(look.name))) return [];
              return [{ key, shape: object.shape, colour: look?.colour ?? "#fff" }];
            })}
          />
          {image.state !== "labeled" || imageClasses.length > 0 ? (
            <span className="absolute bottom-1.5 left-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink">
              {image.state === "labeled" ? imageClasses.join(", ") : image.state}
            </span>
          ) : null}
        </span>
        <ClassStrip image={image} looks={looks} />
        <span className="flex items-center gap-2 pt-[3px] text-[12px] leading-[20px]">
          <span className="min-w-0 flex-1 truncate" title={image.name}>
            {image.name.slice(image.name.lastIndexOf("/") + 1)}
          </span>
          <span className="text-ink-2">
            <SplitMark split={image.split} />
          </span>
          <span className="sr-only">
            {count(image.objects.length, "object")}, {image.state}
          </span>
        </span>
      </button>
    </div>
  );
}

/** All the images a collection holds, under filters, at any thumbnail size. */
export function Stock({ collection }: { collection: number }) {
  const router = useRouter();
  const { where, selection, chosen, toggle, write, clear, active, query, listQuery, sort, setSort, ...tiles } =
    useSelection();
  const { size, setSize } = tiles;
  const view = useView();
  const address = [tiles.address, view.viewAddress].filter(Boolean).join("&");
  const { data: classes } = useClasses(collection);
  const {
    data: facets,
    error,
    refetch,
  } = useQuery({
    queryKey: ["facets", collection, query],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => api<Facets>(`/api/collections/${collection}/stock/facets?${query}`, { signal }),
  });
  const looks: Looks = useMemo(
    () => new Map(classes?.map((row) => [row.id, { name: row.name, colour: classColour(row.colour) }])),
    [classes],
  );

  const ground = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1240);
  const [top, setTop] = useState(0);
  useLayoutEffect(() => {
    const element = ground.current;
    if (!element) return;
    const measure = () => {
      setWidth(element.clientWidth);
      setTop(element.offsetTop);
    };
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [facets?.total]);
  const columns = Math.max(1, Math.floor((width + gap) / (size + gap)));
  const cellWidth = (width - gap * (columns - 1)) / columns;
  const cellHeight = Math.round(cellWidth * 0.75) + 30;
  const total = facets?.matching ?? 0;
  const rows = Math.ceil(total / columns);
  const virtual = useWindowVirtualizer({
    count: rows,
    estimateSize: () => cellHeight + gap,
    overscan: 3,
    scrollMargin: top,
  });
  useEffect(() => virtual.measure(), [virtual, cellHeight]);
  const visible = virtual.getVirtualItems();
  const firstPage = Math.floor(((visible[0]?.index ?? 0) * columns) / pageSize);
  const lastPage = Math.floor((((visible[visible.length - 1]?.index ?? 0) + 1) * columns - 1) / pageSize);
  const pageNumbers = Array.from({ length: Math.max(1, lastPage - firstPage + 1) }, (_, i) => firstPage + i);
  const pages = useQueries({
    queries: pageNumbers.map((page) => ({
      queryKey: ["stock", collection, listQuery, page],
      staleTime: 30_000,
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        api<{ images: StockImage[] }>(
          `/api/collections/${collection}/stock?${listQuery}&start=${page * pageSize}&limit=${pageSize}`,
          { signal },
        ),
    })),
  });
  const imageAt = (index: number): StockImage | undefined =>
    pages[Math.floor(index / pageSize) - firstPage]?.data?.images[index % pageSize];

  const [picked, setPicked] = useState<Picked>(nothing);
  const anchor = useRef<number | null>(null);
  const [current, setCurrent] = useState(0);
  useEffect(() => setPicked(nothing), [query]);
  const extendTo = async (index: number) => {
    const from = anchor.current ?? index;
    try {
      const ids = await idsBetween(collection, listQuery, Math.min(from, index), Math.max(from, index));
      setPicked((before) => withMore(before, ids));
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const select = async (index: number, event: MouseEvent) => {
    const image = imageAt(index);
    if (!image) return;
    setCurrent(index);
    if (event.shiftKey && anchor.current !== null) return extendTo(index);
    anchor.current = index;
    setPicked(toggled(picked, image.id, event.ctrlKey || event.metaKey));
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      if (event.key === "Escape") setPicked(nothing);
      if (!typing && event.key.toLowerCase() === "a" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        setPicked(everything);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const onGridKey = (event: React.KeyboardEvent) => {
    const at = Number((event.target as HTMLElement).dataset["index"]);
    const rowsInView = Math.max(1, Math.floor(window.innerHeight / (cellHeight + gap)) - 1);
    const step = {
      ArrowRight: 1,
      ArrowLeft: -1,
      ArrowDown: columns,
      ArrowUp: -columns,
      PageDown: columns * rowsInView,
      PageUp: -columns * rowsInView,
      Home: -total,
      End: total,
    }[event.key];
    if (!Number.isInteger(at) || step === undefined) return;
    event.preventDefault();
    goTo(Math.min(total - 1, Math.max(0, at + step)));
    if (!event.shiftKey) return;
    anchor.current ??= at;
    void extendTo(Math.min(total - 1, Math.max(0, at + step)));
  };
  /** The cell that the keyboard is to come to; one that is far away is drawn, and its image known, only later. */
  const wanted = useRef<number | null>(null);
  const takeFocus = () => {
    const cell = ground.current?.querySelector<HTMLElement>(`[data-index="${wanted.current}"]`);
    if (wanted.current === null || !cell) return;
    wanted.current = null;
    cell.focus({ preventScroll: true });
  };
  useEffect(takeFocus);
  /** Brings the cell into view and the keyboard to it. */
  const goTo = (next: number) => {
    setCurrent(next);
    virtual.scrollToIndex(Math.floor(next / columns), { align: "auto" });
    wanted.current = next;
    takeFocus();
  };

  // Whoever comes back from an image finds it where it was.
  const goBack = useRef(goTo);
  goBack.current = goTo;
  useEffect(() => {
    if (total === 0) return;
    const place = takePlace(collection, listQuery);
    if (place !== null && place < total) goBack.current(place);
  }, [collection, listQuery, total]);

  if (error instanceof ApiError && error.code === "selection-invalid" && !facets)
    return (
      <main className="px-5 py-4">
        <h1 className="sr-only">Stock</h1>
        <FilterLine collection={collection} where={where} onApply={write} />
        <p className="mt-2 text-harm">{error.message}</p>
      </main>
    );
  if (error && !facets) return <Trouble error={error} again={() => void refetch()} />;
  if (!facets) return <Loading what="the stock" />;
  if (facets.total === 0) {
    return (
      <Empty
        title="Nothing in stock yet"
        action={
          <Button look="go" asChild>
            <Link href={`/c/${collection}/deliveries`}>Take in a delivery</Link>
          </Button>
        }
      >
        Images come in by deliveries. Bring a zip of labeled images and look at it here.
      </Empty>
    );
  }
  return (
    <main className="pb-20">
      <h1 className="sr-only">Stock</h1>
      <Histograms facets={facets} chosen={chosen} toggle={toggle} />
      <div className="flex items-start gap-4 px-5 pt-2.5">
        <FilterLine collection={collection} where={where} onApply={write} />
      </div>
      <div className="flex items-center gap-4 px-5 pb-2.5">
        <p aria-live="polite" data-testid="matching">
          <b className="font-semibold">{number(facets.matching)}</b> of {count(facets.total, "image")} ·{" "}
          <b className="font-semibold">{number(facets.matchingObjects)}</b>{" "}
          {facets.matchingObjects === 1 ? "object" : "objects"}
        </p>
        {active > 0 ? (
          <Button small onClick={clear}>
            Clear {count(active, "filter")}
          </Button>
        ) : null}
        <span className="ml-auto flex gap-1.5">
          <SortMenu sort={sort} onSort={setSort} />
          <ViewMenu view={view} classes={facets.class.map(({ name }) => name)} />
        </span>
        <label className="flex items-center gap-2 text-small text-ink-3">
          Thumbnails
          <input
            type="range"
            min={110}
            max={420}
            step={10}
            value={size}
            onChange={(event) => void setSize(Number(event.target.value))}
            className="w-32 accent-[var(--color-act)]"
          />
        </label>
      </div>
      <div
        ref={ground}
        role="grid"
        aria-label="Images in stock"
        aria-multiselectable="true"
        aria-rowcount={rows}
        onKeyDown={onGridKey}
        className="relative mx-5"
        style={{ height: virtual.getTotalSize() }}
      >
        {visible.map((row) => (
          <div
            key={row.key}
            role="row"
            aria-rowindex={row.index + 1}
            className="absolute inset-x-0 grid"
            style={{ top: row.start - top, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`, gap }}
          >
            {Array.from({ length: Math.min(columns, total - row.index * columns) }, (_, column) => {
              const index = row.index * columns + column;
              const image = imageAt(index);
              return (
                <Cell
                  key={index}
                  index={index}
                  view={view}
                  image={image}
                  current={index === Math.min(current, total - 1)}
                  looks={looks}
                  height={cellHeight}
                  selected={image ? holds(picked, image.id) : false}
                  onClick={(event) => void select(index, event)}
                  onOpen={() => {
                    if (!image) return;
                    rememberPlace(collection, listQuery, index);
                    router.push(`/c/${collection}/stock/${image.id}?${address}`);
                  }}
                />
              );
            })}
          </div>
        ))}
      </div>
      {facets.matching === 0 ? (
        <Empty title="No image matches" action={<Button onClick={clear}>Clear the filters</Button>}>
          Take a filter away and see what comes back.
        </Empty>
      ) : null}
      {sizeOf(picked, total) > 0 ? (
        <Tray
          collection={collection}
          selection={selectionOf(picked, selection)}
          size={sizeOf(picked, total)}
          matching={total}
          onAll={() => setPicked(everything)}
          onClear={() => setPicked(nothing)}
        />
      ) : null}
    </main>
  );
}
