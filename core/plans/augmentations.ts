/** The list of a plan's augmentations: ops with their parameters, and groups of which some are drawn. */
import { distance } from "fastest-levenshtein";
import { z } from "zod";
import { ops } from "../imaging/ops/registry";
import { toneOps } from "../imaging/ops/tones";
import { isColour } from "../imaging/pixels/colour";
import type { AnyOp, Parameter } from "../imaging/ops/op";
import { rangeWithin, share, type Range } from "./numbers";

/** A parameter as a plan holds it: a number, a range, a word, a list of whole numbers, classes or tone ops. */
export type ParameterValue = number | Range | string | readonly number[] | readonly string[] | readonly ToneStep[];
export type OpStep = { op: string; chance: number } & Record<string, ParameterValue>;
export type ToneStep = { op: string } & Record<string, ParameterValue>;
export type OneOf = { oneOf: OpStep[]; chance: number };
export type SomeOf = { someOf: Range; ops: OpStep[]; chance: number };
export type AugmentStep = OpStep | OneOf | SomeOf;

type Context = { issues: unknown[] };
type Path = (string | number)[];

/** Adds an issue where `value` lies. */
function refuse(context: Context, path: Path, message: string, input: unknown): void {
  context.issues.push({ code: "custom", message, path, input });
}

/** The known name nearest to one that is none, as a question; "" where none is near. */
export function nearest(name: string, known: readonly string[]): string {
  const near = known
    .map((other) => ({ other, letters: distance(name.toLowerCase(), other.toLowerCase()) }))
    .filter(({ letters }) => letters <= Math.max(1, Math.ceil(name.length / 3)))
    .sort((a, b) => a.letters - b.letters)[0];
  return near ? ` Did you mean ${near.other}?` : "";
}

/** What a parameter takes. */
export function parameterSchema(parameter: Parameter): z.ZodType<ParameterValue, unknown> {
  switch (parameter.kind) {
    case "number": {
      const { min, max, whole: isWhole = false, unit } = parameter;
      return rangeWithin({ min, max, whole: isWhole, unit: unit === "share" ? "share" : "plain" });
    }
    case "one-of": {
      const { options } = parameter;
      const words = `It takes some of ${options.join(", ")}.`;
      return z.unknown().transform((value, context) => {
        const list: unknown[] = Array.isArray(value) ? value : [value];
        if (list.length > 0 && list.every((entry) => options.includes(entry as number))) return list as number[];
        refuse(context, [], words, value);
        return z.NEVER;
      });
    }
    case "choice": {
      const { options, colour } = parameter;
      const words = `It takes ${options.join(", ")}${colour ? " or a colour '#rrggbb'" : ""}.`;
      return z.unknown().transform((value, context) => {
        if (typeof value === "string" && (options.includes(value) || (colour && isColour(value)))) return value;
        refuse(context, [], `${JSON.stringify(value)} is none of them. ${words}`, value);
        return z.NEVER;
      });
    }
    case "classes":
      return z.array(z.string().min(1).max(120)).max(1000);
    case "tones":
      return z.unknown().transform((value, context) => {
        if (!Array.isArray(value)) {
          refuse(context, [], "It takes a list of tone ops.", value);
          return z.NEVER;
        }
        return value.flatMap((entry, at) => toneStep(entry, [at], context) ?? []);
      });
  }
}

const record = (value: unknown): Record<string, unknown> | null =>
  typeof value === "object" && value !== null && !Array.isArray(value) ? (value as Record<string, unknown>) : null;

/** Reads the parameters of an op; what does not fit becomes an issue at its place. */
function readParameters(
  op: AnyOp,
  entry: Record<string, unknown>,
  { path, context, others }: { path: Path; context: Context; others: readonly string[] },
): Record<string, ParameterValue> | null {
  const known = ["op", ...others, ...Object.keys(op.parameters)];
  let right = true;
  for (const key of Object.keys(entry))
    if (!known.includes(key)) {
      refuse(
        context,
        [...path, key],
        `${op.name} has no ${key}. It takes ${known.slice(1).join(", ") || "nothing"}.${nearest(key, known)}`,
        entry[key],
      );
      right = false;
    }
  const values: Record<string, ParameterValue> = {};
  for (const [name, parameter] of Object.entries(op.parameters)) {
    const given = Object.hasOwn(entry, name) ? entry[name] : parameter.default;
    const parsed = parameterSchema(parameter).safeParse(given);
    if (parsed.success) values[name] = parsed.data;
    else {
      for (const issue of parsed.error.issues)
        refuse(context, [...path, name, ...(issue.path as Path)], issue.message, given);
      right = false;
    }
  }
  return right ? values : null;
}

const opNames = ops.map(({ name }) => name);
const byName = new Map(ops.map((op) => [op.name, op]));
const tonesByName = new Map<string, AnyOp>(toneOps.map((op) => [op.name, op as AnyOp]));

function toneStep(entry: unknown, path: Path, context: Context): ToneStep | null {
  const fields = record(entry);
  const op = typeof fields?.op === "string" ? tonesByName.get(fields.op) : undefined;
  if (!fields || !op) {
    refuse(context, path, `A tone op is expected: one of ${[...tonesByName.keys()].join(", ")}.`, entry);
    return null;
  }
  const values = readParameters(op, fields, { path, context, others: [] });
  return values ? { op: op.name, ...values } : null;
}

/** The chance of a step, 1 where it does not say. */
function readChance(fields: Record<string, unknown>, path: Path, context: Context): number {
  if (!Object.hasOwn(fields, "chance")) return 1;
  const parsed = share().safeParse(fields.chance);
  if (parsed.success) return parsed.data;
  refuse(context, [...path, "chance"], parsed.error.issues[0]?.message ?? "", fields.chance);
  return 0;
}

function opStep(entry: unknown, path: Path, context: Context): OpStep | null {
  const fields = record(entry);
  if (!fields || typeof fields.op !== "string") {
    refuse(context, path, "An op is expected, such as { op: rotate, degrees: [-15, 15] }.", entry);
    return null;
  }
  const op = byName.get(fields.op);
  if (!op) {
    const near = nearest(fields.op, opNames);
    refuse(context, [...path, "op"], `There is no op ${fields.op}.${near} Ops are ${opNames.join(", ")}.`, fields.op);
    return null;
  }
  const chance = readChance(fields, path, context);
  const values = readParameters(op, fields, { path, context, others: ["chance"] });
  return values ? { op: op.name, chance, ...values } : null;
}

function groupOf(list: unknown, path: Path, context: Context): OpStep[] {
  if (!Array.isArray(list) || list.length === 0) {
    refuse(context, path, "A group needs a list of ops.", list);
    return [];
  }
  return list.flatMap((entry, at) => opStep(entry, [...path, at], context) ?? []);
}

function refuseOtherKeys(fields: Record<string, unknown>, known: readonly string[], path: Path, context: Context) {
  for (const key of Object.keys(fields))
    if (!known.includes(key))
      refuse(
        context,
        [...path, key],
        `A group has no ${key}. It takes ${known.join(", ")}.${nearest(key, known)}`,
        key,
      );
}

function augmentStep(entry: unknown, path: Path, context: Context): AugmentStep | null {
  const fields = record(entry);
  if (!fields || !("oneOf" in fields || "someOf" in fields)) return opStep(entry, path, context);
  const chance = readChance(fields, path, context);
  if ("oneOf" in fields) {
    refuseOtherKeys(fields, ["oneOf", "chance"], path, context);
    return { oneOf: groupOf(fields.oneOf, [...path, "oneOf"], context), chance };
  }
  refuseOtherKeys(fields, ["someOf", "ops", "chance"], path, context);
  const list = groupOf(fields.ops, [...path, "ops"], context);
  const many = rangeWithin({ min: 0, max: Math.max(1, list.length), whole: true }).safeParse(fields.someOf);
  if (!many.success) {
    refuse(context, [...path, "someOf"], many.error.issues[0]?.message ?? "", fields.someOf);
    return null;
  }
  const range: Range = typeof many.data === "number" ? [many.data, many.data] : many.data;
  return { someOf: range, ops: list, chance };
}

/** As many steps as a list may have. */
const mostSteps = 100;

export const augmentStepsSchema: z.ZodType<AugmentStep[], unknown> = z.unknown().transform((value, context) => {
  const issues = context as unknown as Context;
  if (!Array.isArray(value) || value.length > mostSteps) {
    refuse(issues, [], `It takes a list of at most ${mostSteps} ops and groups.`, value);
    return z.NEVER;
  }
  return value.flatMap((entry, at) => augmentStep(entry, [at], issues) ?? []);
});

export const isOneOf = (step: AugmentStep): step is OneOf => "oneOf" in step;
export const isSomeOf = (step: AugmentStep): step is SomeOf => "someOf" in step;

/** Every op of a list, those in groups among them. */
export function opsIn(steps: readonly AugmentStep[]): OpStep[] {
  return steps.flatMap((step): readonly OpStep[] => (isOneOf(step) ? step.oneOf : isSomeOf(step) ? step.ops : [step]));
}

/** A step with everything at its default, as it is added on the screen. */
export function newOpStep(name: string): OpStep {
  const op = byName.get(name);
  if (!op) throw new RangeError(`there is no op ${name}`);
  const values = Object.fromEntries(Object.entries(op.parameters).map(([key, { default: value }]) => [key, value]));
  return { op: name, chance: 1, ...values };
}
