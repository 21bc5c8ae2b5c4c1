"use client";
import type { ClassRow } from "@larder/server/services/classes";
import Link from "next/link";
import { useChecks, useClasses } from "@/features/live/queries";
import { classFill } from "@/ui/colours";
import { FindingMark, SplitMark } from "@/ui/marks";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, number } from "@/ui/words";
import { foldRows } from "./fold";

type CheckEntry = NonNullable<ReturnType<typeof useChecks>["data"]>[number];

const splits = ["train", "val", "test", "none"] as const;

/** How each split is made up of classes: one bar a split, so that an odd one stands out. */
function SplitBalance({ classes }: { classes: ClassRow[] }) {
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
        {classes.map((row) => (
          <li key={row.id} className="flex items-center gap-2 truncate">
            <span
              className="size-2.5 shrink-0 rounded-[2px]"
              style={{ background: classFill(row.colour) }}
              aria-hidden="true"
            />
            <span className="truncate">{row.name}</span>
            <span className="ml-auto text-ink-2">{number(row.objects)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** One check: its sentence, its proof, where it was found, and the way to its pictures. */
function CheckRow({ collection, entry }: { collection: number; entry: CheckEntry }) {
  const { sentence } = entry;
  const examples = entry.examples.join(" · ");
  const where = entry.where === null ? null : new URLSearchParams({ where: entry.where }).toString();
  return (
    <li key={`${entry.code}-${entry.sentence}`} className="flex gap-3 border-b border-rule py-2.5">
      <FindingMark severity={entry.severity} />
      <div className="min-w-0 flex-1">
        <p className="font-semibold">{sentence}</p>
        {examples ? <p className="text-[12.5px] break-words text-ink-2">{examples}</p> : null}
        {entry.deliveries.length > 0 ? (
          <p className="text-[12.5px] text-ink-3">
            found in{" "}
            {entry.deliveries.map(({ id, name }, n) => (
              <span key={id}>
                {n > 0 ? ", " : ""}
                <Link className="underline" href={`/c/${collection}/deliveries/${id}`}>
                  {name}
                </Link>
              </span>
            ))}
          </p>
        ) : null}
      </div>
      {where ? (
        <Link href={`/c/${collection}/stock?${where}`} className="shrink-0 text-ink-2 underline hover:text-ink">
          see
        </Link>
      ) : null}
    </li>
  );
}

/** What is worth a look, each a sentence with a number and the way to the pictures that prove it. */
export function Checks({ collection }: { collection: number }) {
  const { data, error, refetch } = useChecks(collection);
  const { data: classes } = useClasses(collection);
  if (error) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the checks" />;
  const loud = data.filter((entry) => entry.severity !== "info").length;
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title="Checks"
        aside={data.length > 0 ? `${loud} to look at, ${data.length - loud} to know` : undefined}
      />
      {data.length === 0 ? (
        <Empty title="Nothing stands out">
          Findings of deliveries and the balance of splits and classes appear here.
        </Empty>
      ) : null}
      <div className="grid grid-cols-[1fr_380px] gap-10 px-5">
        <ul>
          {foldRows(data).map((folded) =>
            "row" in folded ? (
              <CheckRow key={`${folded.row.code}-${folded.row.sentence}`} collection={collection} entry={folded.row} />
            ) : (
              <li key={folded.code} className="border-b border-rule py-2.5">
                <details>
                  <summary className="flex cursor-pointer gap-3">
                    <FindingMark severity={folded.severity} />
                    <span className="flex-1 font-semibold">{folded.sentence}</span>
                    <span className="text-ink-2 underline">which</span>
                  </summary>
                  <ul className="mt-1 ml-6">
                    {folded.rows.map((entry) => (
                      <CheckRow key={entry.sentence} collection={collection} entry={entry} />
                    ))}
                  </ul>
                </details>
              </li>
            ),
          )}
        </ul>
        {classes && classes.some((row) => row.objects > 0) ? <SplitBalance classes={classes} /> : null}
      </div>
    </main>
  );
}
