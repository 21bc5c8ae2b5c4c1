"use client";
import type { StockImage } from "@larder/server/services/stock";
import { memo, type MouseEvent } from "react";
import { Shapes } from "@/features/shapes/shapes";
import { SplitMark } from "@/ui/marks";
import { count } from "@/ui/words";
import { useCellDetail } from "../cells/scroll-speed";
import { Thumbnail } from "../cells/thumbnail";
import type { TileView } from "./use-view";

/** Names and colours of classes by their ids. */
export type Looks = Map<number, { name: string; colour: string }>;

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

type TileProps = {
  image: StockImage;
  view: TileView;
  looks: Looks;
  selected: boolean;
  height: number;
  onPress: (index: number, event: MouseEvent) => void;
  onOpen: (index: number) => void;
  index: number;
  /** Whether the keyboard comes to this one when it comes to the grid. */
  current: boolean;
  dragged: boolean;
  /** Whether its labels are drawn, too. */
  isWhole: boolean;
};

/** One image of the grid, with its labels drawn on it; drawn again only where something of it changes. */
export const Cell = memo(function Cell({
  image,
  ...props
}: Omit<TileProps, "image" | "isWhole"> & { image: StockImage | undefined }) {
  const detail = useCellDetail();
  if (!image || detail === "ground")
    return <div role="gridcell" aria-busy className="rounded-sm bg-well" style={{ height: props.height }} />;
  return <Tile image={image} isWhole={detail === "whole"} {...props} />;
});

/** An image that is there: clicked, opened, dragged (see draggable-tiles.tsx). */
function Tile({ image, looks, selected, height, onPress, onOpen, index, current, dragged, view, isWhole }: TileProps) {
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
        onClick={(event) => onPress(index, event)}
        onDoubleClick={() => onOpen(index)}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            event.preventDefault();
            onOpen(index);
          }
        }}
        className={`block w-full text-left outline-offset-0 ${dragged ? "opacity-50" : ""}`}
      >
        <span className="relative block overflow-hidden rounded-t-[2px] bg-well" style={{ height: height - 30 }}>
          <Thumbnail image={image.id} filter={view.filter} className="absolute inset-0 bg-contain" />
          {isWhole ? (
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
          ) : null}
          {image.state !== "labeled" || imageClasses.length > 0 ? (
            <span className="absolute bottom-1.5 left-1.5 rounded-sm bg-dim/85 px-1.5 text-[11.5px] text-dim-ink">
              {image.state === "labeled" ? imageClasses.join(", ") : image.state}
            </span>
          ) : null}
        </span>
        {isWhole ? <ClassStrip image={image} looks={looks} /> : <span className="mt-[3px] block h-[3px] bg-well" />}
        <span className="flex items-center gap-2 pt-[3px] text-[12px] leading-[20px]">
          <span className="min-w-0 flex-1 truncate" title={image.name}>
            {image.name.slice(image.name.lastIndexOf("/") + 1)}
          </span>
          {isWhole ? (
            <>
              <span className="text-ink-2">
                <SplitMark split={image.split} />
              </span>
              <span className="sr-only">
                {count(image.objects.length, "object")}, {image.state}
              </span>
            </>
          ) : null}
        </span>
      </button>
    </div>
  );
}
