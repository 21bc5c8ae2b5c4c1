"use client";
import type { ComparedGroup } from "@larder/core/versions/compare";
import type { ComparedVersions } from "@larder/server/services/compare-versions";
import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import { parseAsInteger, useQueryState } from "nuqs";
import type { ReactNode } from "react";
import { TextDifference } from "@/features/plans/history-dialog";
import { api } from "@/features/live/api";
import { useVersions, type Wire } from "@/features/live/queries";
import { SelectField } from "@/ui/field";
import { SplitMark } from "@/ui/marks";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count, dayAndTime, number } from "@/ui/words";

type Compared = Wire<ComparedVersions>;

/** Pictures of a group, as far as they are still in stock; the others by their names. */
function Pictures({
  group,
  stock,
  collection,
}: {
  group: ComparedGroup;
  stock: Compared["stock"];
  collection: number;
}) {
  const shown = group.images.slice(0, 16);
  return (
    <>
      <div className="mt-1.5 grid grid-cols-8 gap-1">
        {shown.map(({ source, name }) => {
          const id = stock[source];
          return id === undefined ? (
            <span
              key={source}
              title={`${name}, not in stock any more`}
              className="aspect-square truncate bg-well p-1 text-[10px] text-ink-3"
            >
              {name}
            </span>
          ) : (
            <Link key={source} href={`/c/${collection}/stock/${id}`} title={name}>
              <img
                src={`/api/images/${id}/thumbnail`}
                alt={name}
                className="aspect-square w-full rounded-sm bg-dim object-cover"
              />
            </Link>
          );
        })}
      </div>
      {group.count > shown.length ? (
        <p className="mt-1 text-small text-ink-3">and {number(group.count - shown.length)} more</p>
      ) : null}
    </>
  );
}

function Side({ side, align }: { side: Compared["first"]; align: "left" | "right" }) {
  return (
    <div className={align === "right" ? "text-right" : ""}>
      <p className="font-title text-[24px] leading-none font-semibold">v{side.number}</p>
      <p className="mt-1 truncate font-semibold">{side.name}</p>
      <p className="text-ink-3">{side.frozenAt ? dayAndTime(side.frozenAt) : ""}</p>
      <p className="mt-1">
        <b className="font-semibold">{number(side.images)}</b> images,{" "}
        <b className="font-semibold">{number(side.objects)}</b> objects
      </p>
      <p className={`mt-0.5 flex gap-3 ${align === "right" ? "justify-end" : ""}`}>
        {(["train", "val", "test"] as const).map((split) => {
          const held = side.bySplit[split];
          return held ? (
            <span key={split} className="inline-flex items-center gap-1.5 text-ink-2">
              <SplitMark split={split} /> {number(held.images)}
            </span>
          ) : null;
        })}
      </p>
    </div>
  );
}

function Middle({ children }: { children: ReactNode }) {
  return <div className="text-center text-ink-2">{children}</div>;
}

/** Class balance as bars that meet in the middle. */
function Balance({ classes }: { classes: Compared["classes"] }) {
  const most = Math.max(1, ...classes.flatMap(({ first, second }) => [first, second]));
  return (
    <table className="w-full" aria-label="Labels by class">
      <tbody>
        {classes.map(({ name, first, second }) => (
          <tr key={name} className="border-t border-rule">
            <td className="w-[12%] py-1 text-right">{number(first)}</td>
            <td className="w-[28%] px-2">
              <span className="ml-auto block h-[9px] bg-flow" style={{ width: `${(first / most) * 100}%` }} />
            </td>
            <th scope="row" className="max-w-[160px] truncate px-2 text-center font-normal" title={name}>
              {name}
            </th>
            <td className="w-[28%] px-2">
              <span className="block h-[9px] bg-flow" style={{ width: `${(second / most) * 100}%` }} />
            </td>
            <td className="w-[12%] py-1">{number(second)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Two versions in two columns that meet in the middle: what both hold between them, what only one holds at its side. */
export function CompareVersions({ collection }: { collection: number }) {
  const { data: rows } = useVersions(collection);
  const frozen = rows?.filter((row) => row.number !== null) ?? [];
  const [chosenFirst, setFirst] = useQueryState("first", parseAsInteger);
  const [chosenSecond, setSecond] = useQueryState("second", parseAsInteger);
  const second = chosenSecond ?? frozen[0]?.number ?? null;
  const first = chosenFirst ?? frozen[1]?.number ?? null;
  const { data, error } = useQuery({
    queryKey: ["compare", collection, first, second],
    enabled: first !== null && second !== null,
    queryFn: ({ signal }) =>
      api<Compared>(`/api/collections/${collection}/versions/compare?first=${first}&second=${second}`, { signal }),
  });
  if (rows && frozen.length < 2)
    return (
      <Empty title="Nothing to compare yet" action={<Link href={`/c/${collection}/plans`}>To the plans</Link>}>
        Two versions are needed: what changed between them is shown here.
      </Empty>
    );
  if (error) return <Trouble error={error} />;
  if (!data) return <Loading what="both versions" />;
  const options = frozen.map((row) => ({ value: String(row.number), label: `v${row.number}: ${row.name}` }));
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead title="Versions compared" aside={`${count(data.both, "image")} in both`}>
        <SelectField
          label="This"
          value={String(first)}
          options={options}
          onChange={(value) => void setFirst(Number(value))}
          className="w-[200px]"
        />
        <SelectField
          label="with"
          value={String(second)}
          options={options}
          onChange={(value) => void setSecond(Number(value))}
          className="w-[200px]"
        />
      </PageHead>
      <div className="grid grid-cols-[1fr_1.1fr_1fr] gap-x-8 gap-y-6 px-5">
        <Side side={data.first} align="left" />
        <Middle>
          <p>
            <b className="font-semibold text-ink">{number(data.both)}</b> images in both
          </p>
          <p>
            {data.moved.length === 0
              ? "none of them moved between splits"
              : data.moved.map(({ from, to, count: images }) => `${number(images)} from ${from} to ${to}`).join(", ")}
          </p>
          <p>
            {data.reframed > 0
              ? `${count(data.reframed, "image")} on another frame: labels not compared`
              : `${count(data.relabeled.count, "image")} with other labels`}
          </p>
          {data.first.digest === data.second.digest ? (
            <p className="text-ink">The same digest: nothing differs.</p>
          ) : null}
        </Middle>
        <Side side={data.second} align="right" />
      </div>
      <div className="grid grid-cols-2 gap-8 px-5 pt-6">
        <section aria-label="Class balance">
          <h2 className="mb-1.5 text-[15px]">Labels by class</h2>
          <Balance classes={data.classes} />
        </section>
        <section aria-label="Settings">
          <h2 className="mb-1.5 text-[15px]">Settings</h2>
          <TextDifference before={data.first.yaml} after={data.second.yaml} />
        </section>
      </div>
      <div className="grid grid-cols-[1fr_1.1fr_1fr] gap-x-8 px-5 pt-8">
        <section aria-label={`Only in v${data.first.number}`}>
          <h2 className="text-[15px]">
            Only in v{data.first.number}: {number(data.onlyFirst.count)}
          </h2>
          <Pictures group={data.onlyFirst} stock={data.stock} collection={collection} />
        </section>
        <section aria-label="Changed between them">
          <h2 className="text-center text-[15px]">Moved or labeled otherwise</h2>
          {data.moved.map((group) => (
            <div key={`${group.from} ${group.to}`} className="pt-1">
              <p className="text-ink-2">
                {number(group.count)} from {group.from} to {group.to}
              </p>
              <Pictures group={group} stock={data.stock} collection={collection} />
            </div>
          ))}
          {data.relabeled.count > 0 ? (
            <div className="pt-1">
              <p className="text-ink-2">{number(data.relabeled.count)} with other labels</p>
              <Pictures group={data.relabeled} stock={data.stock} collection={collection} />
            </div>
          ) : null}
        </section>
        <section aria-label={`Only in v${data.second.number}`}>
          <h2 className="text-right text-[15px]">
            Only in v{data.second.number}: {number(data.onlySecond.count)}
          </h2>
          <Pictures group={data.onlySecond} stock={data.stock} collection={collection} />
        </section>
      </div>
    </main>
  );
}
