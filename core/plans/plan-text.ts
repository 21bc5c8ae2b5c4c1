/** A plan as YAML: what is as by default is left out, and a mistake is named with its key and line. */
import { isMap, isScalar, isSeq, LineCounter, parseDocument, stringify, type Document, type Node } from "yaml";
import type { z } from "zod";
import { Failure } from "../model/failure";
import { opNamed } from "../imaging/ops/registry";
import { nearest } from "./augmentations";
import { planSchema, type Plan } from "./plan";
import { writtenPlan } from "./upgrade";

/** One mistake; `line` and `column` count from 1. */
export type PlanMistake = { key: string; line: number; column: number; message: string };

/** A plan's text that cannot be a plan, with every mistake in it. */
export class PlanError extends Failure {
  constructor(
    code: "plan-invalid" | "plan-unreadable",
    readonly mistakes: readonly PlanMistake[],
  ) {
    const [first] = mistakes;
    const more = mistakes.length > 1 ? ` (and ${mistakes.length - 1} more)` : "";
    const where = first ? `Line ${first.line}${first.key ? `, ${first.key}` : ""}: ${first.message}` : "";
    super(code, `${where}${more}`, 400, { mistakes });
  }
}

type Place = readonly PropertyKey[];

/** Where in the text the value of a path stands, or of the nearest part of it that is there. */
function offsetOf(document: Document, path: Place): number {
  let node: unknown = document.contents;
  let offset = 0;
  for (const key of path) {
    if (isMap(node)) {
      const pair = node.items.find((item) => isScalar(item.key) && String(item.key.value) === String(key));
      if (!pair) break;
      offset = (pair.key as Node).range?.[0] ?? offset;
      node = pair.value;
    } else if (isSeq(node)) {
      const item: unknown = node.items[Number(key)];
      if (item === undefined) break;
      node = item;
      offset = (item as Node).range?.[0] ?? offset;
    } else break;
  }
  return offset;
}

const keyOf = (path: Place) =>
  path.reduce<string>(
    (text, key) => (typeof key === "number" ? `${text}[${key}]` : text === "" ? String(key) : `${text}.${String(key)}`),
    "",
  );

/** The keys that the schema knows at a path. */
function knownKeys(path: Place): string[] {
  let at: unknown = planSchema;
  const inner = (schema: unknown): unknown => {
    const definition = (schema as { def?: { innerType?: unknown; in?: unknown; type: string } }).def;
    if (definition?.innerType) return inner(definition.innerType);
    if (definition?.type === "pipe" && definition.in) return inner(definition.in);
    return schema;
  };
  for (const key of path) {
    const { shape } = inner(at) as { shape?: Record<string, unknown> };
    at = shape?.[String(key)];
    if (at === undefined) return [];
  }
  return Object.keys((inner(at) as { shape?: Record<string, unknown> }).shape ?? {});
}

type Issue = z.core.$ZodIssue;

/** What is wrong in a sentence, at which path: an unknown key stands at itself. */
function explained(issue: Issue, value: unknown): { path: Place; message: string }[] {
  if (issue.code === "unrecognized_keys") {
    const known = knownKeys(issue.path);
    return issue.keys.map((key) => ({
      path: [...issue.path, key],
      message: `There is no key ${key} here.${nearest(key, known)}${known.length > 0 ? ` Keys are ${known.join(", ")}.` : ""}`,
    }));
  }
  if (issue.code === "invalid_union") {
    // The branch that went furthest is the one that was meant.
    const branches = [...issue.errors].sort((a, b) => depth(b) - depth(a) || a.length - b.length);
    const [best] = branches;
    if (best && best.length > 0)
      return best.flatMap((inner) => explained({ ...inner, path: [...issue.path, ...inner.path] }, value));
  }
  if (issue.code === "invalid_value")
    return [{ path: issue.path, message: `It takes ${issue.values.map(String).join(", ")}.` }];
  return [{ path: issue.path, message: /[.?!)]$/.test(issue.message) ? issue.message : `${issue.message}.` }];
}

const depth = (issues: readonly Issue[]) => Math.max(0, ...issues.map(({ path }) => path.length));

/** Reads a plan's text. Throws a PlanError that names key, line and what would be right. */
export function planFromYaml(text: string): Plan {
  const counter = new LineCounter();
  const document = parseDocument(text, { lineCounter: counter });
  const placed = (offset: number) => {
    const { line, col } = counter.linePos(offset);
    return { line: Math.max(1, line), column: Math.max(1, col) };
  };
  if (document.errors.length > 0)
    throw new PlanError(
      "plan-unreadable",
      document.errors.map((error) => ({
        key: "",
        ...placed(error.pos[0]),
        message: `This is not YAML: ${error.message.split("\n")[0]?.replace(/ at line .*$/, "") ?? ""}.`,
      })),
    );
  let value: unknown;
  try {
    value = document.toJS({ maxAliasCount: 100 });
  } catch (error) {
    throw new PlanError("plan-unreadable", [{ key: "", line: 1, column: 1, message: `${(error as Error).message}.` }]);
  }
  const parsed = planSchema.safeParse(writtenPlan(value ?? {}));
  if (parsed.success) return parsed.data;
  throw new PlanError(
    "plan-invalid",
    parsed.error.issues
      .flatMap((issue) => explained(issue, value))
      .map(({ path, message }) => ({ key: keyOf(path), ...placed(offsetOf(document, path)), message }))
      .sort((a, b) => a.line - b.line),
  );
}

const plain = (value: unknown): value is Record<string, unknown> =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** What of `value` differs from `from`; undefined where nothing does. */
function differing(value: unknown, from: unknown): unknown {
  if (!plain(value) || !plain(from)) return JSON.stringify(value) === JSON.stringify(from) ? undefined : value;
  const entries = Object.entries(value).flatMap(([key, inner]) => {
    const different = differing(inner, Object.hasOwn(from, key) ? from[key] : undefined);
    return different === undefined ? [] : [[key, different] as const];
  });
  return entries.length > 0 ? Object.fromEntries(entries) : undefined;
}

const percent = (value: number) => `${Number((value * 100).toPrecision(12))}%`;

/** Shares of ops as percentages, and what is as by default left out. */
function writtenStep(step: Record<string, unknown>): Record<string, unknown> {
  const list = (steps: unknown) => (steps as Record<string, unknown>[]).map(writtenStep);
  const chance = step.chance === undefined || step.chance === 1 ? {} : { chance: percent(step.chance as number) };
  if ("oneOf" in step) return { oneOf: list(step.oneOf), ...chance };
  if ("someOf" in step) return { someOf: step.someOf, ops: list(step.ops), ...chance };
  const { parameters } = opNamed(step.op as string);
  const values = Object.entries(parameters).map(([name, parameter]): [string, unknown] => {
    const value = step[name];
    if (parameter.kind === "tones") return [name, list(value)];
    if (parameter.kind !== "number" || parameter.unit !== "share") return [name, value];
    return [name, Array.isArray(value) ? (value as number[]).map(percent) : percent(value as number)];
  });
  return { op: step.op, ...chance, ...Object.fromEntries(values) };
}

/** The plan's text: its number, and what differs from the defaults. */
export function planToYaml(plan: Plan): string {
  const written = {
    ...plan,
    visible: percent(plan.visible),
    split: { ...plan.split, ratio: null },
    augment: { ...plan.augment, do: plan.augment.do.map((step) => writtenStep(step as Record<string, unknown>)) },
    pack: {
      ...plan.pack,
      formats: plan.pack.formats.map((entry) => (Object.keys(entry.options).length > 0 ? entry : entry.format)),
    },
  };
  const defaults = planSchema.parse({});
  const from = {
    ...defaults,
    visible: percent(defaults.visible),
    split: { ...defaults.split, ratio: null },
    pack: { ...defaults.pack, formats: defaults.pack.formats.map(({ format }) => format) },
  };
  const different = (differing(written, from) ?? {}) as Record<string, unknown>;
  // Of a ratio all three parts are said: one that is left out would be 0.
  const { ratio } = plan.split;
  if (JSON.stringify(ratio) !== JSON.stringify(defaults.split.ratio))
    different.split = { ...(different.split as object | undefined), ratio };
  const ordered = Object.fromEntries(
    Object.keys(defaults).flatMap((key) => (Object.hasOwn(different, key) ? [[key, different[key]] as const] : [])),
  );
  return stringify({ plan: 2, ...ordered }, { lineWidth: 0 });
}
