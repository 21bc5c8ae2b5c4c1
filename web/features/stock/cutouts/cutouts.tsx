"use client";
import type { CutoutGroup } from "@larder/core/snapshot/cutouts";
import type { ShownCutout } from "@larder/server/services/stock/cutouts";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useRouter } from "next/navigation";
import { useEffect, useRef, useState, type KeyboardEvent, type MouseEvent, type ReactNode } from "react";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count } from "@/ui/words";
import { useCellKeys } from "@/ui/use-cell-keys";
import { useSteadyCallback } from "@/ui/use-steady-callback";
import { useGround } from "../cells/use-ground";
import type { Looks } from "../grid/cell";
import type { StockSelection } from "../use-selection";
import { CutoutCell } from "./cutout-cell";
import { CutoutOrderMenu } from "./cutout-order-menu";
import { CutoutTray } from "./cutout-tray";
import { GroupField } from "./group-field";
import { Lasso, type Frame } from "./lasso";
import { groupWord, useCutoutGroups, useCutouts, useCutoutView } from "./use-cutouts";

const gap = 6;
const noGroup: CutoutGroup = { of: "class", id: 0 };

/** What tells one cut-out from another: its object, or its image where it is a whole one. */
const keyOf = ({ uid, image }: ShownCutout) => uid ?? `image ${image}`;

/** Every object of what matches, cropped, side by side: the wrong ones stand out. */
export function Cutouts({
  collection,
  looks,
  stock,
  head,
}: {
  collection: number;
  looks: Looks;
  stock: StockSelection;
  head: ReactNode;
}) {
  const router = useRouter();
  const view = useCutoutView();
  const { data: groups, error: groupsError } = useCutoutGroups(collection, stock.query);
  const shown = groups?.find(({ group }) => groupWord(group) === view.group) ?? groups?.[0];
  const total = shown?.count ?? 0;
  const group = shown?.group ?? noGroup;

  const { ground, width, top } = useGround(total > 0);
  const columns = Math.max(1, Math.floor((width + gap) / (view.edge + gap)));
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
  const { cutoutAt, waiting, error, asked } = useCutouts(
    collection,
    stock.query,
    { group, by: view.by, down: view.down },
    { from, to: Math.min(to, Math.max(0, total - 1)), total },
  );

  const [picked, setPicked] = useState<ReadonlyMap<string, ShownCutout>>(new Map());
  const { current, setCurrent, moveBy } = useCellKeys(ground, { total, columns, pitch }, (row) =>
    virtual.scrollToIndex(row, { align: "auto" }),
  );
  const anchor = useRef<number | null>(null);
  useEffect(() => setPicked(new Map()), [asked]);
  useEffect(() => {
    const onKey = (event: globalThis.KeyboardEvent) => event.key === "Escape" && setPicked(new Map());
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const flip = (cutout: ShownCutout) =>
    setPicked((before) => {
      const next = new Map(before);
      if (!next.delete(keyOf(cutout))) next.set(keyOf(cutout), cutout);
      return next;
    });
  /** Adds what lies between two places, as far as it is there. */
  const addBetween = (one: number, other: number) =>
    setPicked((before) => {
      const next = new Map(before);
      for (let index = Math.min(one, other); index <= Math.max(one, other); index++) {
        const cutout = cutoutAt(index);
        if (cutout) next.set(keyOf(cutout), cutout);
      }
      return next;
    });
  const press = (index: number, event: MouseEvent) => {
    const cutout = cutoutAt(index);
    if (!cutout) return;
    setCurrent(index);
    if (event.shiftKey && anchor.current !== null) return addBetween(anchor.current, index);
    anchor.current = index;
    flip(cutout);
  };
  const takeFrame = ({ left, top: above, right, bottom }: Frame, keep: boolean) => {
    const next = new Map(keep ? picked : []);
    const last = (place: number, limit: number) => Math.max(0, Math.min(limit, Math.floor(place / pitch)));
    const rowLimit = Math.ceil(total / columns) - 1;
    for (let row = last(above, rowLimit); row <= last(bottom, rowLimit); row++)
      for (let column = last(left, columns - 1); column <= last(right, columns - 1); column++) {
        const cutout = row * columns + column < total ? cutoutAt(row * columns + column) : undefined;
        if (cutout) next.set(keyOf(cutout), cutout);
      }
    setPicked(next);
  };
  const open = (cutout: ShownCutout) => router.push(`/c/${collection}/stock/${cutout.image}?${stock.address}`);

  const onPress = useSteadyCallback(press);
  const onOpen = useSteadyCallback((index: number) => {
    const cutout = cutoutAt(index);
    if (cutout) open(cutout);
  });
  const onKey = (event: KeyboardEvent) => {
    const cutout = cutoutAt(Number((event.target as HTMLElement).dataset["index"]));
    if (event.key === "Enter" && cutout) {
      event.preventDefault();
      return open(cutout);
    }
    const moved = moveBy(event);
    if (!moved || !event.shiftKey) return;
    anchor.current ??= moved.from;
    addBetween(anchor.current, moved.to);
  };

  const problem = groupsError ?? error;
  if (problem && !groups) return <Trouble error={problem} again={() => undefined} />;
  return (
    <>
      <div className="flex items-center gap-4 px-5 pb-2.5">
        {head}
        <span className="ml-auto" />
        {groups && groups.length > 0 ? (
          <GroupField groups={groups} looks={looks} chosen={groupWord(group)} onChoose={view.setGroup} />
        ) : null}
        <CutoutOrderMenu by={view.by} down={view.down} onOrder={view.setOrder} />
        <label className="flex items-center gap-2 text-small text-ink-3">
          Size
          <input
            type="range"
            min={64}
            max={192}
            step={8}
            value={view.edge}
            onChange={(event) => view.setEdge(Number(event.target.value))}
            className="w-24 accent-[var(--color-act)]"
          />
        </label>
      </div>
      {waiting > 0 ? (
        <p className="px-5 pb-2 text-info" role="status">
          What {count(waiting, "image looks", "images look")} like is still being learned; until then their cut-outs
          stand at the end.
        </p>
      ) : null}
      {!groups ? <Loading what="the cut-outs" /> : null}
      {groups?.length === 0 ? (
        <Empty title="Nothing to cut out">No image that matches has an object or a class.</Empty>
      ) : null}
      {total > 0 ? (
        <div className="mx-5">
          <Lasso ground={ground} onFrame={takeFrame}>
            <div
              ref={ground}
              role="grid"
              aria-label="Cut-outs"
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
                    const selected = cutout ? picked.has(keyOf(cutout)) : false;
                    return (
                      <CutoutCell
                        key={index}
                        index={index}
                        edge={edge}
                        cutout={cutout}
                        selected={selected}
                        current={index === current}
                        onPress={onPress}
                        onOpen={onOpen}
                      />
                    );
                  })}
                </div>
              ))}
            </div>
          </Lasso>
        </div>
      ) : null}
      {picked.size > 0 ? (
        <CutoutTray
          collection={collection}
          picked={[...picked.values()]}
          looks={looks}
          attribute={
            group.of === "attribute"
              ? {
                  name: group.name,
                  values: (groups ?? []).flatMap(({ group: other }) =>
                    other.of === "attribute" && other.name === group.name && other.value !== group.value
                      ? [other.value]
                      : [],
                  ),
                }
              : null
          }
          imageClass={group.of === "image-class" ? group.id : null}
          onDone={() => setPicked(new Map())}
        />
      ) : null}
    </>
  );
}
