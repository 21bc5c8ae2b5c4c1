"use client";
import {
  cellSelection,
  type DeliveryNumbers,
  type HeatMap,
  type Together,
} from "@larder/core/checks/numbers/stock-numbers";
import type { KeypointNumbers } from "@larder/core/checks/numbers/attribute-numbers";
import { selecting } from "@larder/core/selection/dimensions";
import { quote } from "@larder/core/selection/tokens";
import Link from "next/link";
import { useState } from "react";
import { MiddleText } from "@/ui/middle-text";
import { number } from "@/ui/words";
import { stockAddress, type CheckScope } from "./scope";

const tint = (share: number) => ({
  background: `color-mix(in oklab, var(--color-flow-train) ${Math.round(70 * share)}%, transparent)`,
});

/** A number that opens the images it counts, where they are in stock. */
function Counted({
  collection,
  scope,
  where,
  count,
}: {
  collection: number;
  scope: CheckScope;
  where: string;
  count: number;
}) {
  const href = count > 0 ? stockAddress(collection, scope, where) : null;
  return href ? <Link href={href}>{number(count)}</Link> : <>{number(count)}</>;
}

/** How many images hold two classes at once; each cell opens them. */
export function TogetherTable({
  collection,
  scope,
  together,
}: {
  collection: number;
  scope: CheckScope;
  together: Together;
}) {
  const { names, images } = together;
  const most = Math.max(1, ...images.flatMap((row, a) => row.filter((_, b) => a !== b)));
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Classes on one image">
      <table className="text-[12.5px]">
        <caption className="mb-1.5 text-left text-[13.5px] font-medium">Images that hold both</caption>
        <thead>
          <tr>
            <td />
            {names.map((name) => (
              <th key={name} scope="col" className="max-w-24 px-2 py-1 text-right font-normal">
                <MiddleText text={name} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.map((name, a) => (
            <tr key={name}>
              <th scope="row" className="max-w-40 pr-3 text-left font-normal">
                <MiddleText text={name} />
              </th>
              {names.map((other, b) => {
                const count = images[a]?.[b] ?? 0;
                const where = a === b ? selecting({ class: [name] }) : `has ${quote(name)} and has ${quote(other)}`;
                return (
                  <td
                    key={other}
                    className="px-2 py-1 text-right tabular-nums"
                    style={tint(a === b ? 0 : count / most)}
                  >
                    <Counted {...{ collection, scope, where, count }} />
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Where in the picture the objects of one class lie; each cell opens its images. */
export function HeatMaps({
  collection,
  scope,
  maps,
}: {
  collection: number;
  scope: CheckScope;
  maps: readonly HeatMap[];
}) {
  const [chosen, setChosen] = useState(0);
  const map = maps[chosen] ?? maps[0];
  if (!map) return null;
  const most = Math.max(1, ...map.counts);
  return (
    <figure>
      <figcaption className="mb-1.5 flex items-center gap-2 font-medium">
        Middles of
        <select
          aria-label="Class of the heat map"
          className="h-8 rounded-md border border-rule-strong bg-sheet px-2 font-normal"
          value={chosen}
          onChange={({ target }) => setChosen(Number(target.value))}
        >
          {maps.map(({ name }, n) => (
            <option key={name} value={n}>
              {name}
            </option>
          ))}
        </select>
      </figcaption>
      <table className="w-full max-w-[560px] table-fixed border border-rule text-[11px]">
        <tbody>
          {Array.from({ length: map.rows }, (_, row) => (
            <tr key={row}>
              {map.counts.slice(row * map.columns, (row + 1) * map.columns).map((count, column) => (
                <td key={column} className="h-8 text-center tabular-nums" style={tint(count / most)}>
                  {count > 0 ? (
                    <Counted {...{ collection, scope, count }} where={cellSelection(map, row * map.columns + column)} />
                  ) : null}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </figure>
  );
}

/** Deliveries side by side: what they brought, and how their classes are spread. */
export function DeliveryTable({
  collection,
  scope,
  deliveries,
}: {
  collection: number;
  scope: CheckScope;
  deliveries: readonly DeliveryNumbers[];
}) {
  const href = (name: string) => stockAddress(collection, scope, selecting({ delivery: [name] }));
  const names = deliveries[0]?.shares.map(({ name }) => name) ?? [];
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Deliveries side by side">
      <table className="text-[12.5px]">
        <caption className="mb-1.5 text-left text-[13.5px] font-medium">
          Deliveries, with the shares of their classes
        </caption>
        <thead>
          <tr>
            {["delivery", "images", "objects", ...names].map((name) => (
              <th key={name} scope="col" className="max-w-24 px-2 py-1 text-right font-normal first:text-left">
                <MiddleText text={name} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {deliveries.map(({ name, images, objects, shares }) => (
            <tr key={name} className="border-t border-rule">
              <th scope="row" className="max-w-48 truncate px-2 py-1 text-left font-normal">
                {href(name) ? (
                  <Link className="underline" href={href(name) ?? ""}>
                    {name}
                  </Link>
                ) : (
                  name
                )}
              </th>
              <td className="px-2 text-right tabular-nums">{number(images)}</td>
              <td className="px-2 text-right tabular-nums">{number(objects)}</td>
              {shares.map(({ name: of, share }) => (
                <td key={of} className="px-2 text-right tabular-nums" style={tint(share)}>
                  {(100 * share).toFixed(1)}%
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** How often each keypoint of a class is visible, hidden, or not there. */
export function KeypointTable({ keypoints: { name, keypoints } }: { keypoints: KeypointNumbers }) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="group" aria-label={`Keypoints of ${name}`}>
      <table className="w-full text-[12.5px]">
        <caption className="mb-1.5 text-left text-[13.5px] font-medium">Keypoints of {name}</caption>
        <thead>
          <tr>
            {["keypoint", "visible", "hidden", "not there"].map((head) => (
              <th key={head} scope="col" className="px-2 py-1 text-right font-normal first:text-left">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {keypoints.map(({ name: of, visible, hidden, absent }) => (
            <tr key={of} className="border-t border-rule">
              <th scope="row" className="px-2 py-1 text-left font-normal">
                {of}
              </th>
              {[visible, hidden, absent].map((count, n) => (
                <td key={n} className="px-2 text-right tabular-nums">
                  {number(count)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
