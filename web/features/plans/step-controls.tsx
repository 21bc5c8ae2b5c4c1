"use client";
import type { Plan } from "@larder/core/plans/plan";
import type { PlanStep } from "@larder/core/plans/flow";
import type { ForeseenLosses } from "@larder/core/versions/foreseen-losses";
import type { PlanFlow } from "@larder/server/services/planning/plan-flow";
import { AugmentControls } from "./augment/augment-controls";
import type { PackFormat } from "@/features/formats/option-rows";
import { PackControls } from "./steps/pack-controls";
import { PrepareControls } from "./steps/prepare-controls";
import { RelabelControls } from "./steps/relabel-controls";
import { SelectControls } from "./steps/select-controls";
import { SplitControls } from "./steps/split-controls";
import type { Change } from "./steps/rows";

/** The controls of the chosen step. */
export function StepControls({
  step,
  plan,
  change,
  flow,
  losses,
  formats,
  line,
  onLine,
  onDeal,
}: {
  step: Exclude<PlanStep, "stock">;
  plan: Plan;
  change: Change;
  flow: PlanFlow | undefined;
  losses: readonly ForeseenLosses[] | undefined;
  formats: readonly PackFormat[];
  line: number | null;
  onLine: (line: number | null) => void;
  /** Asks whether the dealing is to be the stock's own. */
  onDeal: () => void;
}) {
  switch (step) {
    case "select":
      return <SelectControls plan={plan} change={change} />;
    case "relabel":
      return <RelabelControls plan={plan} change={change} classes={flow?.classes ?? []} />;
    case "split":
      return <SplitControls plan={plan} change={change} flow={flow} onDeal={onDeal} />;
    case "prepare":
      return <PrepareControls plan={plan} change={change} />;
    case "augment":
      return <AugmentControls plan={plan} change={change} unchanged={flow?.unchanged} line={line} onLine={onLine} />;
    case "pack":
      return <PackControls plan={plan} change={change} losses={losses} formats={formats} />;
  }
}
