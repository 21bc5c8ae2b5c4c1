"use client";
import { objectBins, type Dimension } from "@larder/core/selection/dimensions";
import type { Facets } from "@larder/core/snapshot/facets";
import { useState, type ReactNode } from "react";
import { classFill } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { SearchField, searchedFrom } from "@/ui/search-field";
import { number } from "@/ui/words";

type Toggle = (dimension: Dimension, key: string) => void;

function Panel({ title, aside, children }: { title: string; aside?: string; children: ReactNode }) {
  return (
    <fieldset className="min-w-0 border-r border-rule px-4 py-2.5 last:border-r-0">
      <legend className="float-left mb-1 flex w-full justify-between text-small text-ink-3">
        <span>{title}</span>
        {aside ? <span>{aside}</span> : null}
      </legend>
      <div className="clear-both">{children}</div>
    </fieldset>
  );
}

function Bar({
  label,
  count,
  most,
  colour,
  on,
  some,
  onClick,
}: {
  label: ReactNode;
  count: number;
  most: number;
  colour: string;
  on: boolean;
  some: boolean;
  onClick: () => void;
}) {
  // As wide as the largest count of its kind, so that none is cut and bars stand below each other.
  const digits = Math.max(4, number(most).length);
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      style={{ gridTemplateColumns: `minmax(76px, 1fr) minmax(16px, 40%) ${digits + 0.5}ch` }}
      className={`grid w-full items-center gap-2 rounded-sm py-[1px] text-left leading-[17px] hover:bg-well ${on ? "font-semibold" : some ? "text-ink-3" : ""}`}
    >
      <span className="truncate" {...(typeof label === "string" ? { title: label } : {})}>
        {label}
      </span>
      <span className="h-[9px] bg-well">
        <span
          className="block h-full"
          style={{
            width: `${most > 0 ? (count / most) * 100 : 0}%`,
            background: colour,
            opacity: some && !on ? 0.4 : 1,
            minWidth: count > 0 ? 2 : 0,
          }}
        />
      </span>
      <span className="text-right tabular-nums">{number(count)}</span>
    </button>
  );
}

/** Small histograms that are filters: a bar is a filter, and all others answer at once. */
export function Histograms({
  facets,
  chosen,
  toggle,
}: {
  facets: Facets;
  chosen: Record<Dimension, readonly string[]>;
  toggle: Toggle;
}) {
  const [sought, setSought] = useState("");
  const shownClasses = facets.class.filter(({ name }) => name.toLowerCase().includes(sought.trim().toLowerCase()));
  const most = (values: number[]) => values.reduce((highest, value) => Math.max(highest, value), 1);
  const classMost = most(facets.class.map((row) => row.count));
  const splitMost = most(Object.values(facets.split));
  const stateMost = most(Object.values(facets.state));
  const deliveryMost = most(facets.delivery.map((row) => row.count));
  const binMost = most(facets.objects);
  const chosenBins = chosen.objects;
  const highest = facets.objects.reduce((last, count, bin) => (count > 0 ? bin : last), 0);
  const green = "var(--color-flow-train)";
  const facts = (
    [
      ["tag", "Tag"],
      ["source", "Source"],
      ["licence", "Licence"],
      ["camera", "Camera"],
      ["place", "Place"],
      ["taken", "Taken on"],
    ] as const
  ).filter(([dimension]) => facets[dimension].length > 0);
  return (
    <>
      <div
        className="grid grid-cols-[1.4fr_1fr_1.1fr_1.2fr_1.2fr] border-b border-rule bg-sheet"
        data-testid="histograms"
      >
        <Panel title="Class" aside={number(facets.class.length)}>
          {facets.class.length > searchedFrom ? (
            <SearchField
              label="Find a class"
              value={sought}
              onChange={setSought}
              className="mb-1 h-[22px] w-full text-[12px]"
            />
          ) : null}
          <div className={`overflow-y-auto ${facets.class.length > searchedFrom ? "max-h-[127px]" : "max-h-[153px]"}`}>
            {shownClasses.map((row) => (
              <Bar
                key={row.name}
                label={row.name}
                count={row.count}
                most={classMost}
                colour={classFill(row.colour)}
                on={chosen.class.includes(row.name)}
                some={chosen.class.length > 0}
                onClick={() => toggle("class", row.name)}
              />
            ))}
          </div>
        </Panel>
        <Panel title="Split">
          {Object.entries(facets.split).map(([split, count]) => (
            <Bar
              key={split}
              label={<SplitMark split={split} />}
              count={count}
              most={splitMost}
              colour={green}
              on={chosen.split.includes(split)}
              some={chosen.split.length > 0}
              onClick={() => toggle("split", split)}
            />
          ))}
        </Panel>
        <Panel title="State">
          {Object.entries(facets.state).map(([state, count]) => (
            <Bar
              key={state}
              label={state}
              count={count}
              most={stateMost}
              colour={green}
              on={chosen.state.includes(state)}
              some={chosen.state.length > 0}
              onClick={() => toggle("state", state)}
            />
          ))}
        </Panel>
        <Panel title="Delivery" aside={number(facets.delivery.length)}>
          <div className="max-h-[153px] overflow-y-auto">
            {facets.delivery.map((row) => (
              <Bar
                key={row.id}
                label={row.name}
                count={row.count}
                most={deliveryMost}
                colour={green}
                on={chosen.delivery.includes(row.name)}
                some={chosen.delivery.length > 0}
                onClick={() => toggle("delivery", row.name)}
              />
            ))}
          </div>
        </Panel>
        <Panel
          title="Objects an image"
          aside={highest > 0 ? `0 to ${highest >= objectBins ? `${objectBins} or more` : highest}` : undefined}
        >
          <div className="flex h-[86px] items-end gap-[3px] pt-1">
            {facets.objects.map((count, bin) => (
              <button
                key={bin}
                type="button"
                aria-pressed={chosenBins.includes(String(bin))}
                aria-label={`${bin === objectBins ? `${objectBins} or more` : bin} objects: ${count} images`}
                title={`${bin === objectBins ? `${objectBins} or more` : bin}: ${number(count)}`}
                onClick={() => toggle("objects", String(bin))}
                className="flex h-full flex-1 items-end hover:bg-well"
              >
                <span
                  className="block w-full"
                  style={{
                    height: `${(count / binMost) * 100}%`,
                    minHeight: count > 0 ? 2 : 0,
                    background: green,
                    opacity: chosenBins.length > 0 && !chosenBins.includes(String(bin)) ? 0.35 : 1,
                  }}
                />
              </button>
            ))}
          </div>
          <div className="mt-0.5 flex justify-between border-t border-rule text-[11px] text-ink-3" aria-hidden="true">
            <span>0</span>
            <span>5</span>
            <span>10</span>
            <span>15+</span>
          </div>
        </Panel>
      </div>
      {facts.length > 0 ? (
        <div className="flex border-b border-rule bg-sheet" data-testid="fact-histograms">
          {facts.map(([dimension, title]) => (
            <div key={dimension} className="min-w-0 max-w-[360px] flex-1 border-r border-rule last:border-r-0">
              <Panel title={title} aside={number(facets[dimension].filter(({ key }) => key !== "").length)}>
                <div className="max-h-[72px] overflow-y-auto">
                  {facets[dimension].map((row) => (
                    <Bar
                      key={row.key}
                      label={row.key || "not said"}
                      count={row.count}
                      most={most(facets[dimension].map(({ count }) => count))}
                      colour={green}
                      on={chosen[dimension].includes(row.key)}
                      some={chosen[dimension].length > 0}
                      onClick={() => toggle(dimension, row.key)}
                    />
                  ))}
                </div>
              </Panel>
            </div>
          ))}
        </div>
      ) : null}
    </>
  );
}
