"use client";
import type { Line } from "@larder/server/services/collections";
import Link from "next/link";
import { usePathname } from "next/navigation";
import { bandColour } from "@/ui/colours";
import { number } from "@/ui/words";

type Station = { path: string; value: number; label: string; waits: string | null };

function stations(line: Line): Station[] {
  return [
    {
      path: "deliveries",
      value: line.deliveries,
      label: line.deliveries === 1 ? "delivery" : "deliveries",
      waits: line.deliveriesWaiting > 0 ? `${line.deliveriesWaiting} to take in` : null,
    },
    { path: "stock", value: line.stock, label: "in stock", waits: null },
    { path: "classes", value: line.classes, label: line.classes === 1 ? "class" : "classes", waits: null },
    {
      path: "checks",
      value: line.checks,
      label: line.checks === 1 ? "check" : "checks",
      waits: line.checksToLookAt > 0 ? `${line.checksToLookAt} to look at` : null,
    },
    { path: "plans", value: line.plans, label: line.plans === 1 ? "plan" : "plans", waits: null },
    {
      path: "versions",
      value: line.versions,
      label: line.versions === 1 ? "version" : "versions",
      waits: line.versionsBuilding > 0 ? "building" : null,
    },
  ];
}

/** The six stations in the order of the work, each with its live number; the collection's band runs beneath. */
export function StationLine({ collection, line, band }: { collection: number; line: Line; band: number }) {
  const pathname = usePathname();
  return (
    <nav aria-label="Stations" className="grid grid-cols-6 border-b-[3px]" style={{ borderColor: bandColour(band) }}>
      {stations(line).map(({ path, value, label, waits }) => {
        const places = path === "stock" ? ["stock", "bench", "bin"] : [path];
        const here = places.some((place) => pathname.startsWith(`/c/${collection}/${place}`));
        return (
          <Link
            key={path}
            href={`/c/${collection}/${path}`}
            aria-current={here ? "page" : undefined}
            className={`relative flex h-[44px] items-center gap-2 border-r border-rule px-3 last:border-r-0 xl:px-5 hover:bg-ground ${here ? "bg-ground font-semibold" : "text-ink-2"}`}
          >
            <b className="font-title text-[19px] font-semibold tracking-[-0.02em] text-ink">{number(value)}</b>
            <span>{label}</span>
            {waits ? (
              <em className="ml-auto rounded-full bg-look-mark px-2 text-[11.5px] leading-[18px] font-semibold whitespace-nowrap text-look-ink not-italic">
                {/* On a narrow page the number stands for what is said with it. */}
                {/^\d/.test(waits) ? (
                  <>
                    {waits.split(" ")[0]}
                    <span className="max-xl:sr-only"> {waits.split(" ").slice(1).join(" ")}</span>
                  </>
                ) : (
                  waits
                )}
              </em>
            ) : null}
            {here ? (
              <span aria-hidden="true" className="absolute inset-x-3 -bottom-[3px] h-[3px] bg-ink xl:inset-x-5" />
            ) : null}
          </Link>
        );
      })}
    </nav>
  );
}
