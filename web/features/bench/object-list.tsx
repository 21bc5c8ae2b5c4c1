"use client";
import { crossesItself } from "@larder/core/editing/crossings";
import { shapeBounds } from "@larder/core/geometry/shape";
import type { StockObject } from "@larder/core/labels/labels";
import type { Shape } from "@larder/core/model/shape";
import type { ClassRow } from "@larder/server/services/classes";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useRef, useState, type RefObject } from "react";
import { kindWords } from "@/features/shapes/kind-words";
import { classColour } from "@/ui/colours";

const flagWords = ["crowd", "occluded", "truncated", "difficult"] as const;
const rowHeight = 27;

/** Whether an outline crosses itself is worked out once a shape. */
const crossing = new WeakMap<Shape, boolean>();
function isCrossed(shape: Shape): boolean {
  if (shape.kind !== "polygon") return false;
  const known = crossing.get(shape) ?? crossesItself(shape.parts);
  crossing.set(shape, known);
  return known;
}

/** The objects in drawing order, what is drawn last at the end; only those in sight are on the page. */
export function ObjectList({
  objects,
  looks,
  selected,
  scroller,
  onSelect,
  onUncross,
}: {
  objects: readonly StockObject[];
  looks: ReadonlyMap<number, ClassRow>;
  selected: ReadonlySet<string>;
  /** What scrolls, with the list in it. */
  scroller: RefObject<HTMLElement | null>;
  onSelect: (uids: readonly string[]) => void;
  onUncross: (object: StockObject) => void;
}) {
  const list = useRef<HTMLUListElement>(null);
  const [above, setAbove] = useState(0);
  // What stands above the list changes with what is chosen.
  useLayoutEffect(() => setAbove(list.current?.offsetTop ?? 0));
  const rows = useVirtualizer({
    count: objects.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    getItemKey: (n) => objects[n]?.uid ?? n,
    scrollMargin: above,
    overscan: 8,
  });
  const only = selected.size === 1 ? objects.findIndex(({ uid }) => selected.has(uid)) : -1;
  useEffect(() => {
    if (only >= 0) rows.scrollToIndex(only, { align: "auto" });
  }, [only]);
  return (
    <ul ref={list} aria-label="Objects" className="relative text-[12.5px]" style={{ height: rows.getTotalSize() }}>
      {rows.getVirtualItems().map(({ index, start, key }) => {
        const object = objects[index];
        if (!object) return null;
        const look = looks.get(object.class);
        const box = shapeBounds(object.shape);
        const isChosen = selected.has(object.uid);
        return (
          <li
            key={key}
            ref={rows.measureElement}
            data-index={index}
            aria-posinset={index + 1}
            aria-setsize={objects.length}
            className="absolute inset-x-0 top-0 border-b border-dim-rule"
            style={{ transform: `translateY(${start - above}px)` }}
          >
            <button
              type="button"
              aria-pressed={isChosen}
              onClick={(event) => {
                if (!event.shiftKey) return onSelect(isChosen && selected.size === 1 ? [] : [object.uid]);
                onSelect(isChosen ? [...selected].filter((uid) => uid !== object.uid) : [...selected, object.uid]);
              }}
              className="flex w-full items-baseline gap-2 px-1.5 py-1 text-left hover:bg-dim-2 aria-pressed:bg-dim-2"
            >
              <span
                className="size-2.5 shrink-0 rounded-[2px]"
                style={{ background: classColour(look?.colour ?? 0) }}
                aria-hidden="true"
              />
              <span className="min-w-0 flex-1 truncate">
                <span className="font-medium">{look?.name ?? "class that is gone"}</span>
                <span className="text-dim-ink-2">
                  {" "}
                  {[
                    kindWords[object.shape.kind],
                    ...flagWords.filter((flag) => object[flag] === true),
                    ...Object.entries(object.attributes ?? {}).map(([name, value]) => `${name} ${String(value)}`),
                  ].join(" · ")}
                </span>
              </span>
              <span className="text-dim-ink-2 tabular-nums">
                {box ? `${Math.round(box.width)} × ${Math.round(box.height)}` : ""}
              </span>
            </button>
            {isCrossed(object.shape) ? (
              <p className="flex items-center justify-between gap-2 px-1.5 pb-1 text-[12px] text-[#f2c14e]">
                The outline crosses itself.
                <button type="button" className="underline" onClick={() => onUncross(object)}>
                  Mend it
                </button>
              </p>
            ) : null}
          </li>
        );
      })}
    </ul>
  );
}
