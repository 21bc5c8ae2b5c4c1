"use client";
import type { ShownCutout } from "@larder/server/services/stock/cutouts";
import { memo, type MouseEvent } from "react";

/** One cut-out; drawn again only where something of it changes. */
export const CutoutCell = memo(function CutoutCell({
  index,
  edge,
  cutout,
  selected,
  current,
  onPress,
  onOpen,
}: {
  index: number;
  /** Of its sides, in pixels of the page. */
  edge: number;
  cutout: ShownCutout | undefined;
  selected: boolean;
  /** Whether the keyboard comes to this one when it comes to the grid. */
  current: boolean;
  onPress: (index: number, event: MouseEvent) => void;
  onOpen: (index: number) => void;
}) {
  return (
    <div role="gridcell" aria-selected={selected} style={{ width: edge, height: edge }}>
      <button
        type="button"
        data-index={index}
        tabIndex={current ? 0 : -1}
        aria-label={cutout ? `On ${cutout.name}` : "Not there yet"}
        title={cutout?.name}
        onClick={(event) => onPress(index, event)}
        onDoubleClick={() => onOpen(index)}
        className={`block size-full overflow-hidden rounded-sm bg-well ${
          selected ? "outline-[3px] -outline-offset-3 outline-act outline-solid" : ""
        }`}
      >
        {cutout?.picture ? (
          <img
            src={`data:image/webp;base64,${cutout.picture}`}
            alt=""
            decoding="sync"
            draggable={false}
            className={`size-full object-contain ${selected ? "opacity-75" : ""}`}
          />
        ) : null}
      </button>
    </div>
  );
});
