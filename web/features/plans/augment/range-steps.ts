import type { NumberParameter } from "@larder/core/imaging/ops/op";
import { opNamed } from "@larder/core/imaging/ops/registry";
import { isOneOf, isSomeOf, type AugmentStep, type OpStep } from "@larder/core/plans/augmentations";
import type { Range } from "@larder/core/plans/numbers";
import type { Plan } from "@larder/core/plans/plan";

const isRange = (value: unknown): value is Range => Array.isArray(value) && value.length === 2;

const numbersOf = (step: OpStep): [string, NumberParameter][] =>
  Object.entries(opNamed(step.op).parameters).flatMap(([name, parameter]) =>
    parameter.kind === "number" ? [[name, parameter] as [string, NumberParameter]] : [],
  );

/** Whether a line draws a number from a range. */
export function hasRange(step: AugmentStep): boolean {
  return !isOneOf(step) && !isSomeOf(step) && numbersOf(step).some(([name]) => isRange(step[name]));
}

/** A plan that does a single line, always, with its ranges at a place: 0 the low end, 1 the high one. */
export function planAt(plan: Plan, step: OpStep, place: number): Plan {
  const fixed: OpStep = { ...step, chance: 1 };
  for (const [name, { whole }] of numbersOf(step)) {
    const value = step[name];
    if (!isRange(value)) continue;
    const at = value[0] + place * (value[1] - value[0]);
    fixed[name] = whole ? Math.round(at) : at;
  }
  return {
    ...plan,
    augment: { ...plan.augment, copies: 1, original: false, rare: null, unchanged: "keep", do: [fixed] },
  };
}
