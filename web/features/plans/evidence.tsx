"use client";
import { ownEntry } from "@larder/core/model/own-entry";
import type { Band } from "@larder/core/plans/flow";
import type { Plan } from "@larder/core/plans/plan";
import type { Sample } from "@larder/server/services/plans";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { number } from "@/ui/words";

type ClassColours = Map<string, string>;

function SampleFigure({ sample, caption, colours }: { sample: Sample; caption: string; colours: ClassColours }) {
  return (
    <figure className="min-w-0">
      <div
        className="relative overflow-hidden rounded-sm bg-dim"
        style={{ aspectRatio: `${sample.width} / ${sample.height}` }}
      >
        <img src={sample.picture} alt="" className="absolute inset-0 size-full" />
        <Shapes
          width={sample.width}
          height={sample.height}
          shapes={sample.objects.map((object, key) => ({
            key,
            shape: object.shape,
            colour: colours.get(object.class) ?? classColour(0),
          }))}
        />
      </div>
      <figcaption className="mt-1 truncate text-[12px] text-ink-2">{caption}</figcaption>
    </figure>
  );
}

/** A training image before and after the plan, labels moved along. */
export function SampleEvidence({
  collection,
  plan,
  colours,
}: {
  collection: number;
  plan: Plan;
  colours: ClassColours;
}) {
  const [turn, setTurn] = useState(0);
  const { data } = useQuery({
    queryKey: ["plan-samples", collection, plan, turn],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<{ name: string; before: Sample; after: Sample[] } | null>(`/api/collections/${collection}/plan-samples`, {
        method: "POST",
        body: { plan, turn },
        signal,
      }),
  });
  if (!data) return <p className="text-ink-3">No training image comes through yet.</p>;
  return (
    <>
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="text-[15px]">What it does</h2>
        <span className="min-w-0 truncate text-ink-3">{data.name}</span>
        <Button small className="ml-auto" onClick={() => setTurn(turn + 1)}>
          Another image
        </Button>
      </div>
      <div className="grid grid-cols-4 items-start gap-2">
        <SampleFigure
          sample={data.before}
          caption={`in stock, ${number(data.before.width)} × ${number(data.before.height)}`}
          colours={colours}
        />
        {data.after.slice(0, 3).map((sample) => (
          <SampleFigure
            key={sample.copy}
            sample={sample}
            caption={`${sample.copy === 0 ? "goes out" : `copy ${sample.copy}`}: ${sample.words}`}
            colours={colours}
          />
        ))}
      </div>
    </>
  );
}

/** Per class and band, how many labels come out of a step. */
export function CountEvidence({ bands, colours }: { bands: readonly Band[]; colours: ClassColours }) {
  const names = [...new Set(bands.flatMap((band) => Object.keys(band.byClass)))].sort((a, b) => total(b) - total(a));
  function total(name: string): number {
    return bands.reduce((sum, band) => sum + (ownEntry(band.byClass, name) ?? 0), 0);
  }
  const most = Math.max(1, ...names.map(total));
  return (
    <>
      <h2 className="mb-1 text-[15px]">What comes out, class by class</h2>
      <table className="ledger">
        <thead>
          <tr>
            <th>Class</th>
            <th className="w-[40%]">Share</th>
            {bands.map((band) => (
              <th key={band.split ?? "all"} className="number">
                {band.split ? <SplitMark split={band.split} /> : "labels"}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.map((name) => (
            <tr key={name}>
              <td className="max-w-[200px] truncate" title={name}>
                <span
                  aria-hidden="true"
                  className="mr-2 inline-block size-2.5 rounded-[2px]"
                  style={{ background: colours.get(name) ?? classColour(0) }}
                />
                {name}
              </td>
              <td>
                <span className="block h-[9px] bg-well">
                  <span
                    className="block h-full"
                    style={{ width: `${(total(name) / most) * 100}%`, background: colours.get(name) ?? classColour(0) }}
                  />
                </span>
              </td>
              {bands.map((band) => (
                <td key={band.split ?? "all"} className="number">
                  {number(ownEntry(band.byClass, name) ?? 0)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
