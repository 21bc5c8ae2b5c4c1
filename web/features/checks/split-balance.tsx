"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useState } from "react";
import { Button } from "@/ui/button";
import { classFill } from "@/ui/colours";
import { SplitMark } from "@/ui/marks";
import { MiddleText } from "@/ui/middle-text";
import { count, number } from "@/ui/words";

/** As many classes are listed until somebody wants all of them. */
const mostListed = 24;
const splits = ["train", "val", "test", "none"] as const;

/** How each split is made up of classes: one bar a split, so that an odd one stands out. */
export function SplitBalance({ classes }: { classes: ClassRow[] }) {
  const [isAll, setIsAll] = useState(false);
  const rows = splits
    .map((split) => ({ split, total: classes.reduce((sum, row) => sum + row.bySplit[split], 0) }))
    .filter((row) => row.total > 0);
  return (
    <section>
      <h2 className="mb-2 text-[15px]">Balance of the splits</h2>
      <p className="mb-3 text-ink-2">Bars of one pattern are splits that hold the classes in the same proportion.</p>
      <ul className="flex flex-col gap-3">
        {rows.map(({ split, total }) => (
          <li key={split}>
            <div className="mb-1 flex justify-between">
              <SplitMark split={split} />
              <span className="text-ink-2">{count(total, "label")}</span>
            </div>
            <div
              className="flex h-[18px] gap-px bg-well"
              role="img"
              aria-label={`${split}: ${classes.map((row) => `${row.name} ${row.bySplit[split]}`).join(", ")}`}
            >
              {classes.map((row) =>
                row.bySplit[split] > 0 ? (
                  <span
                    key={row.id}
                    title={`${row.name}: ${number(row.bySplit[split])}`}
                    style={{ flexGrow: row.bySplit[split], background: classFill(row.colour) }}
                  />
                ) : null,
              )}
            </div>
          </li>
        ))}
      </ul>
      <ul className="mt-4 grid grid-cols-2 gap-x-4 gap-y-1">
        {(isAll ? classes : classes.slice(0, mostListed)).map((row) => (
          <li key={row.id} className="flex min-w-0 items-center gap-2">
            <span
              className="size-2.5 shrink-0 rounded-[2px]"
              style={{ background: classFill(row.colour) }}
              aria-hidden="true"
            />
            <MiddleText text={row.name} />
            <span className="ml-auto text-ink-2">{number(row.objects)}</span>
          </li>
        ))}
      </ul>
      {classes.length > mostListed && !isAll ? (
        <Button small look="quiet" className="mt-2" onClick={() => setIsAll(true)}>
          {count(classes.length - mostListed, "more class", "more classes")}
        </Button>
      ) : null}
    </section>
  );
}
