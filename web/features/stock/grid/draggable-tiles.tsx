"use client";
import { useDraggable } from "@dnd-kit/core";
import { type ComponentProps, type PointerEvent, type RefObject } from "react";

/**
 * The ground of the grid, each of whose tiles can be dragged. One draggable stands for all and is the tile that was pressed
 * last: one for each tile would be most of the work of drawing tiles as they are scrolled by.
 */
export function DraggableTiles({
  ground,
  onGrab,
  ...rest
}: Omit<ComponentProps<"div">, "ref" | "onPointerDown"> & {
  ground: RefObject<HTMLDivElement | null>;
  /** Told of the place of the tile that was pressed. */
  onGrab: (index: number) => void;
}) {
  const { setNodeRef, listeners } = useDraggable({ id: "tiles" });
  const start = (event: PointerEvent) => {
    const tile = (event.target as Element).closest<HTMLElement>("[data-index]");
    if (!tile) return;
    setNodeRef(tile);
    onGrab(Number(tile.dataset["index"]));
    listeners?.["onPointerDown"]?.(event);
  };
  return <div ref={ground} onPointerDown={start} {...rest} />;
}
