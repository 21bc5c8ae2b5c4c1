"use client";
import type { Stocktake } from "@larder/server/services/checks/stocktake";
import Link from "next/link";
import { parseAsInteger, parseAsString, useQueryState } from "nuqs";
import { useChecks, useClasses, usePlans, type Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { FindingMark } from "@/ui/marks";
import { PageHead } from "@/ui/page-head";
import { Empty, Loading, Trouble } from "@/ui/states";
import { Charts } from "./charts";
import { DismissedList } from "./dismissed-list";
import { FindingRow } from "./finding-row";
import { foldRows } from "./fold";
import { isWholeStock, type CheckScope } from "./scope";
import { SplitBalance } from "./split-balance";

/** What is still being looked at in the background; null where all has been. */
function pending({ findings, isTaken, isWhole, isComparing }: Wire<Stocktake>): string | null {
  if (!isTaken)
    return findings.length > 0
      ? "Something has changed: stock is being taken anew in the background. These are the findings of before."
      : "Stock is being taken in the background, as there is much to look at: what is found stands here once that is done.";
  if (!isComparing) return null;
  return isWhole
    ? "Much has changed: what objects look like is being compared anew. Wrong labels are said of what stayed as it was."
    : "What objects look like is being compared in the background: wrong labels are said here once that is done.";
}

/** What is looked at, where that is not all of the stock. */
function ScopeLine({ collection, scope, onWhole }: { collection: number; scope: CheckScope; onWhole: () => void }) {
  const { where, plan, version } = scope;
  const { data: plans } = usePlans(collection);
  if (isWholeStock(scope)) return null;
  const name = plans?.find(({ id }) => id === plan)?.name;
  return (
    <p className="mx-5 mb-3 flex flex-wrap items-center gap-x-3 gap-y-1">
      {plan ? (
        <span>
          Of what{" "}
          <Link className="underline" href={`/c/${collection}/plans/${plan}`}>
            {name ?? "the plan"}
          </Link>{" "}
          leaves of the stock, before pictures are resized and copied
        </span>
      ) : null}
      {version ? (
        <span>
          Of{" "}
          <Link className="underline" href={`/c/${collection}/versions/${version}`}>
            v{version}
          </Link>{" "}
          as it was frozen, without the copies that were made of its pictures
        </span>
      ) : null}
      {where === "" ? null : (
        <span>
          {plan || version ? "and of that, the" : "Of the"} images that match <code>{where}</code>
        </span>
      )}
      {plan || version ? (
        <Link className="underline" href={`/c/${collection}/checks`}>
          Check all of the stock
        </Link>
      ) : (
        <Button small onClick={onWhole}>
          Check all of the stock
        </Button>
      )}
    </p>
  );
}

/** The stocktake: what is worth a look, worst first, with the pictures that prove it and what mends it. */
export function Checks({ collection }: { collection: number }) {
  /** The part of the stock that is checked, as a selection. */
  const [where, setWhere] = useQueryState("where", parseAsString.withDefault(""));
  const [plan] = useQueryState("plan", parseAsInteger);
  const [version] = useQueryState("version", parseAsInteger);
  const scope: CheckScope = { where, plan: plan ?? undefined, version: version ?? undefined };
  const { data, error, refetch } = useChecks(collection, scope);
  const { data: classes } = useClasses(collection);
  /** The finding whose pictures are all shown. */
  const [open, setOpen] = useQueryState("finding", parseAsString);
  if (error && !data) return <Trouble error={error} again={() => void refetch()} />;
  if (!data) return <Loading what="the checks" />;
  const { findings, dismissed } = data;
  const loud = findings.filter((entry) => entry.severity !== "info").length;
  const colours = new Map(classes?.map(({ id, colour }) => [id, classColour(colour)]));
  const row = (entry: (typeof findings)[number]) => (
    <FindingRow
      key={entry.key}
      collection={collection}
      scope={scope}
      finding={entry}
      isOpen={open === entry.key}
      onToggle={() => void setOpen(open === entry.key ? null : entry.key)}
      colourOf={(classId) => colours.get(classId) ?? classColour(0)}
    />
  );
  return (
    <main className="mx-auto max-w-[1640px] pb-16">
      <PageHead
        title="Checks"
        aside={findings.length > 0 ? `${loud} to look at, ${findings.length - loud} to know` : undefined}
      />
      <ScopeLine collection={collection} scope={scope} onWhole={() => void setWhere(null)} />
      {pending(data) === null ? null : (
        <p className="mx-5 mb-3 text-ink-2" role="status">
          {pending(data)}
        </p>
      )}
      {findings.length === 0 && data.isTaken ? (
        <Empty title="Nothing stands out">
          Findings of deliveries and the balance of splits and classes appear here.
        </Empty>
      ) : null}
      <div className="grid grid-cols-[minmax(0,1fr)_340px] gap-10 px-5">
        <ul aria-label="Findings">
          {foldRows(findings).map((folded) =>
            "row" in folded ? (
              row(folded.row)
            ) : (
              <li key={folded.code} className="border-b border-rule py-2.5">
                <details open={folded.rows.some(({ key }) => key === open)}>
                  <summary className="flex cursor-pointer gap-3">
                    <FindingMark severity={folded.severity} />
                    <span className="flex-1 font-semibold">{folded.sentence}</span>
                    <span className="text-ink-2 underline">which</span>
                  </summary>
                  <ul className="mt-1 ml-6">{folded.rows.map(row)}</ul>
                </details>
              </li>
            ),
          )}
        </ul>
        <div>
          {isWholeStock(scope) && classes && classes.some((one) => one.objects > 0) ? (
            <SplitBalance classes={classes} />
          ) : null}
          {scope.version ? null : <DismissedList collection={collection} dismissed={dismissed} />}
        </div>
      </div>
      <Charts collection={collection} scope={scope} />
    </main>
  );
}
