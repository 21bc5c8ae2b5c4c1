"use client";
import type { GateResult } from "@larder/core/checks/gates";
import { allChecks } from "@larder/core/checks/stocktake";
import type { CheckCode } from "@larder/core/checks/codes";
import type { Plan } from "@larder/core/plans/plan";
import type { PlanGates } from "@larder/server/services/checks/gates";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Check as Tick, Plus, X } from "lucide-react";
import Link from "next/link";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { NumberInput } from "@/ui/number-input";
import { Popover } from "@/ui/popover";
import { number } from "@/ui/words";

const spoken = (code: string) => code.replaceAll("-", " ");
const mostAllowed = 1_000_000;

/** The gates of a plan as they stand on the stock now; null where the plan has none or it is not known yet. */
export function useGates(collection: number, plan: Plan | null): PlanGates | null {
  const { data } = useQuery({
    queryKey: ["plan-gates", collection, plan],
    enabled: plan !== null && Object.keys(plan.gates).length > 0,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      api<PlanGates>(`/api/collections/${collection}/plan-gates`, { method: "POST", body: plan, signal }),
  });
  return plan && Object.keys(plan.gates).length > 0 ? (data ?? null) : null;
}

/** One gate: what it lets through, and what is found; pressed, it is changed or taken away. */
function Gate({
  code,
  most,
  result,
  onMost,
  onRemove,
}: {
  code: CheckCode;
  most: number;
  result: GateResult | undefined;
  onMost: (most: number) => void;
  onRemove: () => void;
}) {
  const isClosed = result?.isOpen === false;
  const limit = most === 0 ? "none allowed" : `up to ${number(most)} allowed`;
  return (
    <Popover
      label={`Gate ${spoken(code)}`}
      align="start"
      className="w-[330px] space-y-3 p-4"
      trigger={
        <button
          type="button"
          className={`flex min-h-8 items-center gap-1.5 rounded-md border px-2.5 text-[13px] ${isClosed ? "border-harm text-harm" : "border-rule-strong hover:bg-well"}`}
        >
          {result === undefined ? null : isClosed ? (
            <X size={14} aria-label="closed" />
          ) : (
            <Tick size={14} aria-label="open" />
          )}
          <span>
            {spoken(code)}: {result ? `${number(result.found)} found` : "counted when it is built"}, {limit}
          </span>
        </button>
      }
    >
      {result?.sentences.map((sentence) => (
        <p key={sentence}>{sentence}</p>
      ))}
      <label className="flex items-center gap-2">
        Let through up to
        <NumberInput value={most} min={0} max={mostAllowed} onChange={onMost} className="h-8 w-24" />
        {result?.counts}
      </label>
      <Button small onClick={onRemove}>
        Take the gate away
      </Button>
    </Popover>
  );
}

/** Findings that keep a plan from being built, as they stand on what it leaves of the stock. */
export function Gates({
  collection,
  id,
  plan,
  gates,
  change,
}: {
  collection: number;
  id: number;
  plan: Plan;
  gates: PlanGates | null;
  change: (plan: Plan) => void;
}) {
  const [isAdding, setIsAdding] = useState(false);
  const put = (code: CheckCode, most: number) => change({ ...plan, gates: { ...plan.gates, [code]: most } });
  const remove = (code: CheckCode) =>
    change({ ...plan, gates: Object.fromEntries(Object.entries(plan.gates).filter(([name]) => name !== code)) });
  const set = allChecks.filter(({ code }) => Object.hasOwn(plan.gates, code));
  return (
    <section aria-label="Gates" className="mx-5 flex flex-wrap items-center gap-2 border-t border-rule py-2">
      <h2 className="text-[13px] font-semibold text-ink-2">Gates</h2>
      {set.length === 0 ? <span className="text-[13px] text-ink-3">none: whatever is found, it is built</span> : null}
      {set.map(({ code }) => (
        <Gate
          key={code}
          code={code}
          most={plan.gates[code] ?? 0}
          result={gates?.results.find((one) => one.code === code)}
          onMost={(most) => put(code, most)}
          onRemove={() => remove(code)}
        />
      ))}
      <Popover
        label="Add a gate"
        align="start"
        className="max-h-[420px] w-[420px] overflow-y-auto p-2"
        open={isAdding}
        onOpenChange={setIsAdding}
        trigger={
          <Button small look="quiet">
            <Plus size={14} aria-hidden="true" />
            Add a gate
          </Button>
        }
      >
        <p className="px-2 pt-1 pb-2 text-ink-2">
          A version is built only while what the plan leaves shows none of it.
        </p>
        <ul>
          {allChecks
            .filter((check) => !set.includes(check))
            .map(({ code, means }) => (
              <li key={code}>
                <button
                  type="button"
                  className="w-full rounded-md px-2 py-1.5 text-left hover:bg-well"
                  onClick={() => {
                    put(code, 0);
                    setIsAdding(false);
                  }}
                >
                  <span className="block font-medium">{spoken(code)}</span>
                  <span className="block text-[12.5px] text-ink-2">{means}</span>
                </button>
              </li>
            ))}
        </ul>
      </Popover>
      <Link className="ml-auto text-[13px] underline" href={`/c/${collection}/checks?plan=${id}`}>
        Check what it leaves
      </Link>
    </section>
  );
}
