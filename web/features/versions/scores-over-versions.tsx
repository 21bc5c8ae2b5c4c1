"use client";
import {
  allClasses,
  classesScored,
  measuresIn,
  scoreSeries,
  type ScoredVersion,
} from "@larder/core/versions/score-series";
import { useQuery } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useState } from "react";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import type { VersionScore } from "@larder/server/services/version-scores";
import { SelectField } from "@/ui/field";

const LineChart = dynamic(() => import("@/ui/line-chart").then((module) => module.LineChart), { ssr: false });

export const useScores = (collection: number) =>
  useQuery({
    queryKey: ["scores", collection],
    queryFn: ({ signal }) => api<Wire<VersionScore>[]>(`/api/collections/${collection}/scores`, { signal }),
  });

const percent = (value: number) => `${(value * 100).toFixed(1)} %`;

/** How well models did on each version: a chart over versions, of all classes or of one; the same as a table. */
export function ScoresOverVersions({ collection }: { collection: number }) {
  const { data } = useScores(collection);
  const [chosenMeasure, setMeasure] = useState<string | null>(null);
  const [of, setOf] = useState(allClasses);
  if (!data || data.length === 0) return null;
  const scored: readonly ScoredVersion[] = data;
  const measures = measuresIn(scored);
  const measure = chosenMeasure ?? measures[0] ?? "";
  const classes = classesScored(scored, measure);
  const numbers = [...new Set(scored.map(({ number }) => number))].sort((a, b) => a - b);
  const series = scoreSeries(scored, measure, of);
  const valueOf = (points: (typeof series)[number]["points"], number: number) =>
    points.find((point) => point.number === number)?.value ?? null;
  return (
    <section aria-label="Scores of trained models" className="mt-8 px-5">
      <div className="flex flex-wrap items-end gap-3 pb-2">
        <h2 className="mr-auto text-[17px]">Scores of trained models</h2>
        <SelectField
          label="Measure"
          value={measure}
          options={measures.map((name) => ({ value: name, label: name }))}
          onChange={setMeasure}
          className="w-[150px]"
        />
        <SelectField
          label="Of"
          value={of}
          options={[
            { value: allClasses, label: "all classes" },
            ...classes.map((name) => ({ value: name, label: name })),
          ]}
          onChange={setOf}
          className="w-[180px]"
        />
      </div>
      <div className="grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)] gap-8">
        <div className="h-[230px]">
          <LineChart
            places={numbers.map((number) => `v${number}`)}
            lines={series.map(({ model, points }) => ({
              name: model,
              values: numbers.map((number) => valueOf(points, number)),
            }))}
            description={`${measure} of ${of === allClasses ? "all classes" : of} over versions; the table beside says the same`}
          />
        </div>
        <table className="ledger self-start">
          <thead>
            <tr>
              <th>Model</th>
              {numbers.map((number) => (
                <th key={number} className="number">
                  v{number}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {series.map(({ model, points }) => (
              <tr key={model}>
                <td className="max-w-[200px] truncate" title={model}>
                  {model}
                </td>
                {numbers.map((number) => {
                  const value = valueOf(points, number);
                  return (
                    <td key={number} className="number">
                      {value === null ? "" : value >= 0 && value <= 1 ? percent(value) : value}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
