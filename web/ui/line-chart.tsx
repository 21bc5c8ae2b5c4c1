"use client";
import {
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
  type ChartOptions,
} from "chart.js";
import { Line } from "react-chartjs-2";

Chart.register(CategoryScale, Legend, LinearScale, LineController, LineElement, PointElement, Tooltip);

export type ChartLine = { name: string; values: (number | null)[] };

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
/** Lines differ in dashes and marks as well as in colour. */
const dashes = [[], [6, 4], [2, 3], [8, 3, 2, 3]];
const marks = ["circle", "rect", "triangle", "rectRot"] as const;

/** Shares (0 … 1) over a few named places, a line each. `description` says the same in words. */
export function LineChart({
  places,
  lines,
  description,
}: {
  places: readonly string[];
  lines: readonly ChartLine[];
  description: string;
}) {
  const colours = ["--color-flow-train", "--color-flow-val", "--color-flow-test", "--color-harm"].map(colour);
  const ink = colour("--color-ink-2");
  const font = { family: "Figtree Variable", size: 12 };
  const options: ChartOptions<"line"> = {
    responsive: true,
    maintainAspectRatio: false,
    animation: false,
    spanGaps: true,
    plugins: {
      legend: { display: lines.length > 1, position: "bottom", labels: { color: ink, font, usePointStyle: true } },
    },
    scales: {
      x: {
        offset: true,
        grid: { display: false },
        ticks: { color: ink, font },
        border: { color: colour("--color-rule-strong") },
      },
      y: { suggestedMin: 0, suggestedMax: 1, grid: { color: colour("--color-rule") }, ticks: { color: ink, font } },
    },
  };
  const datasets = lines.map(({ name, values }, at) => ({
    label: name,
    data: values,
    borderColor: colours[at % colours.length] ?? ink,
    backgroundColor: colours[at % colours.length] ?? ink,
    borderDash: dashes[Math.floor(at / colours.length) % dashes.length] ?? [],
    pointStyle: marks[at % marks.length] ?? "circle",
    pointRadius: 4,
    borderWidth: 2,
  }));
  return (
    <div className="relative h-full w-full">
      <Line data={{ labels: [...places], datasets }} options={options} role="img" aria-label={description} />
    </div>
  );
}
