"use client";
import type { CutoutGroup, CutoutOrder } from "@larder/core/snapshot/cutout-group";
import type { ShownCutout } from "@larder/server/services/stock/cutouts";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type KeyboardEvent, type MouseEvent } from "react";
import { count } from "@/ui/words";
import { useCellKeys } from "@/ui/use-cell-keys";
import { useSteadyCallback } from "@/ui/use-steady-callback";
import { useScrollSpeed } from "../cells/scroll-speed";
import { useGround } from "../cells/use-ground";
import { CutoutCell } from "./cutout-cell";
import { Lasso, type Frame } from "./lasso";
import { useCutouts } from "./use-cutouts";

const gap = 6;

/** Cut-outs that are picked, by what tells one from another. */
export type PickedCutouts = ReadonlyMap<string, ShownCutout>;
/** What tells one cut-out from another: its object, or its image where it is a whole one. */
const keyOf = ({ uid, image }: ShownCutout) => uid ?? `image ${image}`;

/** The cut-outs of one group, `total` of them, as a grid in which they are picked by mouse and by keyboard. */
export function CutoutGrid({
  collection,
  query,
  group,
  order,
  total,
  size,
  label,
  picked,
  onPick,
  onOpen,
}: {
  collection: number;
  /** The query of the stock, as a part of an address. */
  query: string;
  group: CutoutGroup;
  order: { by: CutoutOrder; down: boolean };
  total: number;
  /** About how long the sides of a cut-out are, in pixels of the page. */
  size: number;
  label: string;
  picked: PickedCutouts;
  onPick: (picked: PickedCutouts) => void;
  onOpen: (cutout: ShownCutout) => void;
}) {
  const { ground, width, top } = useGround(total > 0);
  useScrollSpeed();
  const columns = Math.max(1, Math.floor((width + gap) / (size + gap)));
  const edge = (width - gap * (columns - 1)) / columns;
  const pitch = edge + gap;
  const virtual = useWindowVirtualizer({
    count: Math.ceil(total / columns),
    estimateSize: () => pitch,
    overscan: 1,
    scrollMargin: top,
  });
  useEffect(() => virtual.measure(), [virtual, pitch]);
  const rows = virtual.getVirtualItems();
  const [from, to] = [(rows[0]?.index ?? 0) * columns, ((rows.at(-1)?.index ?? 0) + 1) * columns - 1];
  const { cutoutAt, waiting, error } = useCutouts(
    collection,
    query,
    { group, ...order },
    { from, to: Math.min(to, Math.max(0, total - 1)), total },
  );
  const { current, setCurrent, moveBy } = useCellKeys(ground, { total, columns, pitch }, (row) =>
    virtual.scrollToIndex(row, { align: "auto" }),
  );
  const anchor = useRef<number | null>(null);
  /** Adds what lies between two places, as far as it is there. */
  const addBetween = (one: number, other: number) => {
    const next = new Map(picked);
    for (let index = Math.min(one, other); index <= Math.max(one, other); index++) {
      const cutout = cutoutAt(index);
      if (cutout) next.set(keyOf(cutout), cutout);
    }
    onPick(next);
  };
  const press = useSteadyCallback((index: number, event: MouseEvent) => {
    const cutout = cutoutAt(index);
    if (!cutout) return;
    setCurrent(index);
    if (event.shiftKey && anchor.current !== null) return addBetween(anchor.current, index);
    anchor.current = index;
    const next = new Map(picked);
    if (!next.delete(keyOf(cutout))) next.set(keyOf(cutout), cutout);
    onPick(next);
  });
  const takeFrame = ({ left, top: above, right, bottom }: Frame, keep: boolean) => {
    const next = new Map(keep ? picked : []);
    const last = (place: number, limit: number) => Math.max(0, Math.min(limit, Math.floor(place / pitch)));
    const rowLimit = Math.ceil(total / columns) - 1;
    for (let row = last(above, rowLimit); row <= last(bottom, rowLimit); row++)
      for (let column = last(left, columns - 1); column <= last(right, columns - 1); column++) {
        const cutout = row * columns + column < total ? cutoutAt(row * columns + column) : undefined;
        if (cutout) next.set(keyOf(cutout), cutout);
      }
    onPick(next);
  };
  const open = useSteadyCallback((index: number) => {
    const cutout = cutoutAt(index);
    if (cutout) onOpen(cutout);
  });
  const onKey = (event: KeyboardEvent) => {
    const cutout = cutoutAt(Number((event.target as HTMLElement).dataset["index"]));
    if (event.key === "Enter" && cutout) {
      event.preventDefault();
      return onOpen(cutout);
    }
    const moved = moveBy(event);
    if (!moved || !event.shiftKey) return;
    anchor.current ??= moved.from;
    addBetween(anchor.current, moved.to);
  };

  return (
    <>
      {error ? (
        <p role="alert" className="pb-2 text-harm">
          {error.message}
        </p>
      ) : null}
      {waiting > 0 ? (
        <p className="pb-2 text-info" role="status">
          What {count(waiting, "image looks", "images look")} like is still being learned; until then their cut-outs
          stand at the end.
        </p>
      ) : null}
      <Lasso ground={ground} onFrame={takeFrame}>
        <div
          ref={ground}
          role="grid"
          aria-label={label}
          aria-multiselectable="true"
          aria-rowcount={Math.ceil(total / columns)}
          onKeyDown={onKey}
          className="relative"
          style={{ height: virtual.getTotalSize() }}
        >
          {rows.map((row) => (
            <div
              key={row.key}
              role="row"
              aria-rowindex={row.index + 1}
              className="absolute inset-x-0 flex"
              style={{ top: row.start - top, gap }}
            >
              {Array.from({ length: Math.min(columns, total - row.index * columns) }, (_, column) => {
                const index = row.index * columns + column;
                const cutout = cutoutAt(index);
                return (
                  <CutoutCell
                    key={index}
                    index={index}
                    edge={edge}
                    cutout={cutout}
                    selected={cutout ? picked.has(keyOf(cutout)) : false}
                    current={index === current}
                    onPress={press}
                    onOpen={open}
                  />
                );
              })}
            </div>
          ))}
        </div>
      </Lasso>
    </>
  );
}
