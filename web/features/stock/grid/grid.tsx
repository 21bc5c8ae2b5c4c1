"use client";
import { mostLiked } from "@larder/core/snapshot/order";
import type { StockImage } from "@larder/server/services/stock";
import {
  DndContext,
  DragOverlay,
  MeasuringStrategy,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { useQueries } from "@tanstack/react-query";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState, type KeyboardEvent, type MouseEvent, type ReactNode } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { count } from "@/ui/words";
import { useSteadyCallback } from "@/ui/use-steady-callback";
import { useCellKeys } from "@/ui/use-cell-keys";
import { useScrollSpeed } from "../cells/scroll-speed";
import { useGround } from "../cells/use-ground";
import { everything, holds, idsBetween, nothing, selectionOf, sizeOf, toggled, withMore, type Picked } from "../picked";
import { Tray } from "../tray/tray";
import type { StockSelection } from "../use-selection";
import { Cell, type Looks } from "./cell";
import { DraggableTiles } from "./draggable-tiles";
import { DropBar, type Drop } from "./drop-bar";
import { rememberPlace, takePlace } from "./place";
import { SortMenu } from "./sort-menu";
import { useView } from "./use-view";
import { ViewMenu } from "./view-menu";

const pageSize = 60;
const gap = 8;
/** Where something can be dropped comes up only once it is dragged. */
const droppedOn = { droppable: { strategy: MeasuringStrategy.Always } };

/** The images that match as thumbnails of any size, in any order; `total` of them. */
export function Grid({
  collection,
  total,
  looks,
  classNames,
  tags,
  stock,
  head,
  formats,
}: {
  collection: number;
  total: number;
  looks: Looks;
  classNames: readonly string[];
  tags: readonly string[];
  stock: StockSelection;
  head: ReactNode;
  formats: readonly string[];
}) {
  const router = useRouter();
  const { selection, query, listQuery, sort, setOrder, size, setSize } = stock;
  const view = useView();
  const { act } = useActs(collection);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  /** The image whose tile is pressed, and the one whose tile is dragged. */
  const grabbed = useRef<number | null>(null);
  const [dragged, setDragged] = useState<number | null>(null);
  const address = [stock.address, view.viewAddress].filter(Boolean).join("&");
  const { ground, width, top } = useGround(total);
  useScrollSpeed();
  const columns = Math.max(1, Math.floor((width + gap) / (size + gap)));
  const cellWidth = (width - gap * (columns - 1)) / columns;
  const cellHeight = Math.round(cellWidth * 0.75) + 30;
  const rows = Math.ceil(total / columns);
  const virtual = useWindowVirtualizer({
    count: rows,
    estimateSize: () => cellHeight + gap,
    overscan: 3,
    // Drawn in a task of its own, not within that of the scrolling.
    useFlushSync: false,
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
  const { current, setCurrent, goTo, moveBy } = useCellKeys(
    ground,
    { total, columns, pitch: cellHeight + gap },
    (row) => virtual.scrollToIndex(row, { align: "auto" }),
  );
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
  const press = useSteadyCallback((index: number, event: MouseEvent) => void select(index, event));
  const open = useSteadyCallback((index: number) => {
    const image = imageAt(index);
    if (!image) return;
    rememberPlace(collection, listQuery, index);
    router.push(`/c/${collection}/stock/${image.id}?${address}`);
  });
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => {
      const typing = (event.target as HTMLElement | null)?.closest?.("input, textarea, [contenteditable=true]");
      if (event.key === "Escape") setPicked(nothing);
      if (!typing && event.key.toLowerCase() === "a" && (event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        setPicked(everything);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const onGridKey = (event: KeyboardEvent) => {
    const moved = moveBy(event);
    if (!moved || !event.shiftKey) return;
    anchor.current ??= moved.from;
    void extendTo(moved.to);
  };

  // Whoever comes back from an image finds it where it was.
  const goBack = useRef(goTo);
  goBack.current = goTo;
  useEffect(() => {
    if (total === 0) return;
    const place = takePlace(collection, listQuery);
    if (place !== null && place < total) goBack.current(place);
  }, [collection, listQuery, total]);

  /** What a dragged tile stands for: all that is picked where it is among it, else itself. */
  const meant = (image: number) =>
    holds(picked, image)
      ? { selection: selectionOf(picked, selection), size: sizeOf(picked, total) }
      : { selection: { where: "", only: [image], except: [] }, size: 1 };
  const onDragEnd = ({ over }: DragEndEvent) => {
    setDragged(null);
    const { request } = (over?.data.current ?? {}) as Partial<Drop>;
    if (dragged === null || !request) return;
    const { selection: these, size: many } = meant(dragged);
    void act(these, request, many);
  };
  return (
    <DndContext
      id="stock"
      sensors={sensors}
      collisionDetection={pointerWithin}
      measuring={droppedOn}
      onDragStart={() => setDragged(grabbed.current)}
      onDragEnd={onDragEnd}
      onDragCancel={() => setDragged(null)}
    >
      {dragged === null ? null : <DropBar looks={looks} tags={tags} />}
      <DragOverlay dropAnimation={null}>
        {dragged === null ? null : (
          <span className="inline-block rounded-md bg-dim px-3 py-1.5 text-dim-ink">
            {count(meant(dragged).size, "image")}
          </span>
        )}
      </DragOverlay>
      <div className="flex items-center gap-4 px-5 pb-2.5">
        {head}
        <span className="ml-auto flex gap-1.5">
          <SortMenu sort={sort} onSort={setOrder} />
          <ViewMenu view={view} classes={classNames} />
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
      <DraggableTiles
        ground={ground}
        onGrab={(index) => (grabbed.current = imageAt(index)?.id ?? null)}
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
                  view={view.tile}
                  image={image}
                  current={index === current}
                  looks={looks}
                  height={cellHeight}
                  selected={image ? holds(picked, image.id) : false}
                  dragged={image !== undefined && image.id === dragged}
                  onPress={press}
                  onOpen={open}
                />
              );
            })}
          </div>
        ))}
      </DraggableTiles>
      {sizeOf(picked, total) > 0 ? (
        <Tray
          collection={collection}
          selection={selectionOf(picked, selection)}
          size={sizeOf(picked, total)}
          matching={total}
          onAll={() => setPicked(everything)}
          onClear={() => setPicked(nothing)}
          formats={formats}
          onLookAlikes={
            !picked.all && picked.images.size <= mostLiked
              ? () => {
                  setOrder("like", { like: [...picked.images] });
                  window.scrollTo({ top: 0 });
                }
              : null
          }
        />
      ) : null}
    </DndContext>
  );
}
