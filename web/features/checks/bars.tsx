"use client";
import type { Bar } from "@larder/core/checks/numbers/bars";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { BarChart } from "@/ui/bar-chart";
import { number } from "@/ui/words";
import { imagesAddress, stockAddress, type CheckScope } from "./scope";

/** Counts as a chart, with the table behind it for reading and copying; bars and rows open their images in stock. */
export function Bars({
  collection,
  scope,
  title,
  bars,
}: {
  collection: number;
  scope: CheckScope;
  title: string;
  bars: readonly Bar[];
}) {
  const router = useRouter();
  const hrefOf = ({ where, only = [] }: Bar) =>
    where === null ? imagesAddress(collection, scope, only) : stockAddress(collection, scope, where);
  const total = bars.reduce((sum, { count }) => sum + count, 0);
  if (total === 0) return null;
  return (
    <figure className="min-w-0">
      <figcaption className="mb-1.5 font-medium">{title}</figcaption>
      <div className="h-44">
        <BarChart
          labels={bars.map(({ label }) => label)}
          values={bars.map(({ count }) => count)}
          description={`${title}: ${bars.map(({ label, count }) => `${label} ${number(count)}`).join(", ")}`}
          onPress={(place) => {
            const href = bars[place] && hrefOf(bars[place]);
            if (href) router.push(href);
          }}
        />
      </div>
      <details className="mt-1 text-[12.5px]">
        <summary className="cursor-pointer text-ink-3">As a table</summary>
        <table className="mt-1 w-full">
          <caption className="sr-only">{title}</caption>
          <tbody>
            {bars.map((bar) => {
              const href = hrefOf(bar);
              return (
                <tr key={bar.label} className="border-b border-rule">
                  <th scope="row" className="py-0.5 text-left font-normal">
                    {href && bar.count > 0 ? (
                      <Link className="underline" href={href}>
                        {bar.label}
                      </Link>
                    ) : (
                      bar.label
                    )}
                  </th>
                  <td className="text-right tabular-nums">{number(bar.count)}</td>
                  <td className="w-16 text-right text-ink-3 tabular-nums">{((100 * bar.count) / total).toFixed(1)}%</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </details>
    </figure>
  );
}
