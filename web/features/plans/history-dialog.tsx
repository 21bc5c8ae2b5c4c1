"use client";
import { differenceOfTexts } from "@larder/core/plans/text-difference";
import { planToYaml } from "@larder/core/plans/plan-text";
import type { Plan } from "@larder/core/plans/plan";
import type { PlanRevision } from "@larder/server/services/plans";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { Loading, Trouble } from "@/ui/states";
import { dayAndTime } from "@/ui/words";

/** Lines of two texts, those of the one alone and of the other marked. */
export function TextDifference({ before, after }: { before: string; after: string }) {
  const lines = differenceOfTexts(before, after);
  return (
    <pre className="max-h-[46vh] overflow-auto rounded-md border border-rule bg-ground p-2 font-mono text-[12px] leading-[1.5]">
      {lines.map(({ kind, text }, at) => (
        <div key={at} className={kind === "added" ? "bg-act-wash" : kind === "removed" ? "bg-harm-wash" : "text-ink-2"}>
          <span aria-hidden="true">{kind === "added" ? "+ " : kind === "removed" ? "− " : "  "}</span>
          {text}
        </div>
      ))}
    </pre>
  );
}

/** What a plan said before, who changed it and when; any state can be compared with today's and taken back. */
export function HistoryDialog({
  id,
  plan,
  onTake,
  onDone,
}: {
  id: number;
  plan: Plan;
  onTake: (plan: Plan) => void;
  onDone: () => void;
}) {
  const { data, error } = useQuery({
    queryKey: ["plan-history", id],
    queryFn: ({ signal }) => api<Wire<PlanRevision>[]>(`/api/plans/${id}/history`, { signal }),
  });
  const [chosen, setChosen] = useState(0);
  const [against, setAgainst] = useState("today");
  const revision = data?.[chosen];
  const other = data?.find(({ id: entry }) => String(entry) === against);
  const states = [
    { value: "today", label: "what it says today" },
    ...(data ?? []).map(({ id: entry, at, by }) => ({ value: String(entry), label: `${dayAndTime(at)}, until ${by}` })),
  ];
  return (
    <Dialog
      open
      wide
      onOpenChange={(open) => !open && onDone()}
      title="What the plan said before"
      description="The chosen state beside today's, or beside another one: what begins with − is gone, what begins with + is new."
    >
      {error ? <Trouble error={error} /> : null}
      {data === undefined && !error ? <Loading what="the history" /> : null}
      {data?.length === 0 ? <p className="text-ink-3">This plan was not changed yet.</p> : null}
      {data && revision ? (
        <div className="grid grid-cols-[220px_1fr] gap-4">
          <ul className="max-h-[46vh] overflow-y-auto">
            {data.map(({ id: entry, at, by }, index) => (
              <li key={entry}>
                <button
                  type="button"
                  aria-pressed={index === chosen}
                  onClick={() => setChosen(index)}
                  className={`w-full rounded-sm px-2 py-1 text-left ${index === chosen ? "bg-act-wash" : "hover:bg-well"}`}
                >
                  {dayAndTime(at)} <span className="text-ink-3">until {by} changed it</span>
                </button>
              </li>
            ))}
          </ul>
          <div>
            <TextDifference before={revision.yaml} after={other?.yaml ?? planToYaml(plan)} />
            <div className="mt-3 flex items-end justify-between">
              <SelectField
                label="Compared with"
                value={against}
                options={states}
                onChange={setAgainst}
                className="w-[230px]"
              />
              <Button
                look="go"
                onClick={() => {
                  onTake(revision.body);
                  onDone();
                }}
              >
                Go back to this
              </Button>
            </div>
          </div>
        </div>
      ) : null}
    </Dialog>
  );
}
