"use client";
import type { CutoutGroup } from "@larder/core/snapshot/cutout-group";
import type { CutoutGroups } from "@larder/core/snapshot/cutouts";
import type { ShownCutout } from "@larder/server/services/stock/cutouts";
import { useRouter } from "next/navigation";
import { useEffect, useState, type ReactNode } from "react";
import { Button } from "@/ui/button";
import { Empty, Loading, Trouble } from "@/ui/states";
import { number } from "@/ui/words";
import type { Looks } from "../grid/cell";
import type { StockSelection } from "../use-selection";
import { CutoutGrid, type PickedCutouts } from "./cutout-grid";
import { CutoutOrderMenu } from "./cutout-order-menu";
import { CutoutTray } from "./cutout-tray";
import { GroupField } from "./group-field";
import { besides, groupName, groupWord, useCutoutGroups, useCutoutView } from "./use-cutouts";

const nothing: PickedCutouts = new Map();

/** The group whose cut-outs are picked, and which: what is done to them goes by their group. */
type Picked = { group: CutoutGroup; cutouts: PickedCutouts };

/** The attribute that a group is one value of, and its other values; null where it is none. */
function attributeOf(group: CutoutGroup, groups: CutoutGroups) {
  if (group.of !== "attribute") return null;
  const values = groups.flatMap(({ group: other }) =>
    other.of === "attribute" && other.name === group.name && other.value !== group.value ? [other.value] : [],
  );
  return { name: group.name, values };
}

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
  const { data: groups, error } = useCutoutGroups(collection, stock.query);
  const chosen = groups?.find(({ group }) => groupWord(group) === view.group) ?? groups?.[0];
  const others = chosen && groups ? besides(chosen.group, groups) : [];
  const shown = chosen ? (view.beside ? [chosen, ...others] : [chosen]) : [];

  const [picked, setPicked] = useState<Picked | null>(null);
  const asked = `${stock.query} ${view.by} ${view.down} ${shown.map(({ group }) => groupWord(group)).join(" ")}`;
  useEffect(() => setPicked(null), [asked]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === "Escape" && setPicked(null);
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const open = (cutout: ShownCutout) => router.push(`/c/${collection}/stock/${cutout.image}?${stock.address}`);

  if (error && !groups) return <Trouble error={error} again={() => undefined} />;
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2 px-5 pb-2.5">
        {head}
        <span className="ml-auto" />
        {groups && chosen ? (
          <GroupField groups={groups} looks={looks} chosen={groupWord(chosen.group)} onChoose={view.setGroup} />
        ) : null}
        {others.length > 0 ? (
          <Button small aria-pressed={view.beside} onClick={() => view.setBeside(!view.beside)}>
            {view.beside ? "This one alone" : "Beside the others"}
          </Button>
        ) : null}
        <CutoutOrderMenu of={chosen?.group.of ?? "class"} by={view.by} down={view.down} onOrder={view.setOrder} />
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
      {!groups ? <Loading what="the cut-outs" /> : null}
      {groups?.length === 0 ? (
        <Empty title="Nothing to cut out">No image that matches has an object or a class.</Empty>
      ) : null}
      <div className="mx-5 flex items-start gap-5">
        {shown.map(({ group, count: total }) => {
          const word = groupWord(group);
          const name = groupName(group, looks);
          return (
            <section key={word} aria-label={name} className="min-w-0 flex-1">
              {shown.length > 1 ? (
                <h2 className="flex items-baseline gap-2 border-b border-rule pb-1.5 text-[14px]">
                  <span className="truncate" title={name}>
                    {name}
                  </span>
                  <span className="font-normal text-ink-2">{number(total)}</span>
                </h2>
              ) : null}
              <div className={shown.length > 1 ? "pt-2" : ""}>
                <CutoutGrid
                  collection={collection}
                  query={stock.query}
                  group={group}
                  order={{ by: view.by, down: view.down }}
                  total={total}
                  size={view.edge}
                  label={shown.length > 1 ? `Cut-outs of ${name}` : "Cut-outs"}
                  picked={picked && groupWord(picked.group) === word ? picked.cutouts : nothing}
                  onPick={(cutouts) => setPicked({ group, cutouts })}
                  onOpen={open}
                />
              </div>
            </section>
          );
        })}
      </div>
      {picked && picked.cutouts.size > 0 ? (
        <CutoutTray
          collection={collection}
          picked={[...picked.cutouts.values()]}
          looks={looks}
          attribute={attributeOf(picked.group, groups ?? [])}
          imageClass={picked.group.of === "image-class" ? picked.group.id : null}
          onDone={() => setPicked(null)}
        />
      ) : null}
    </>
  );
}
