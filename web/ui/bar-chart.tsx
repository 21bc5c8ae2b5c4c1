"use client";
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip, type ChartOptions } from "chart.js";
import { Bar } from "react-chartjs-2";

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Counts as bars; a bar that is pressed is named by its place. `description` says the same in words. */
export function BarChart({
  labels,
  values,
  description,
  onPress,
}: {
  labels: readonly string[];
  values: readonly number[];
  description: string;
  onPress?: (place: number) => void;
}) {
  const ink = colour("--color-ink-2");
  const font = { family: "Figtree Variable", size: 12 };
  const options: ChartOptions<"bar"> = {
    responsive: true,
    maintainAspectRatio: false,
    animation: false,
    plugins: { legend: { display: false } },
    onClick: (_, [pressed]) => pressed && onPress?.(pressed.index),
    scales: {
      x: { grid: { display: false }, ticks: { color: ink, font, autoSkip: true, maxRotation: 40 } },
      y: { beginAtZero: true, grid: { color: colour("--color-rule") }, ticks: { color: ink, font, precision: 0 } },
    },
  };
  const datasets = [{ data: [...values], backgroundColor: colour("--color-flow-train"), maxBarThickness: 44 }];
  return (
    <div className="relative h-full w-full">
      <Bar data={{ labels: [...labels], datasets }} options={options} role="img" aria-label={description} />
    </div>
  );
}
