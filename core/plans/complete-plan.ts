/** What may stand at a place of a plan's text: keys of the part it is in, or the words that a key takes. */
import { ops } from "../imaging/ops/registry";
import { planSchema } from "./plan";

export type PlanProposal = { text: string; detail: string };
export type PlanCompletion = { from: number; proposals: PlanProposal[] };

type Inner = {
  innerType?: unknown;
  in?: unknown;
  out?: unknown;
  type: string;
  options?: unknown[];
  entries?: object;
  shape?: Record<string, unknown>;
  element?: unknown;
};
const definitionOf = (schema: unknown): Inner | undefined => (schema as { def?: Inner } | undefined)?.def;

/** The schema inside defaults, optionals and pipes. */
function bare(schema: unknown): unknown {
  const definition = definitionOf(schema);
  if (definition?.innerType) return bare(definition.innerType);
  if (definition?.type === "pipe" && definition.in) return bare(definition.in);
  return schema;
}

function shapesOf(schema: unknown): Record<string, unknown>[] {
  const inner = bare(schema);
  const definition = definitionOf(inner);
  if (definition?.type === "union") return (definition.options ?? []).flatMap(shapesOf);
  if (definition?.type === "array") return shapesOf(definition.element);
  const shape = (inner as { shape?: Record<string, unknown> } | undefined)?.shape;
  return shape ? [shape] : [];
}

/** The keys at a path of the plan, each with its schema. */
function keysAt(path: readonly string[]): Map<string, unknown> {
  let schemas: unknown[] = [planSchema];
  for (const key of path) schemas = schemas.flatMap((schema) => shapesOf(schema).flatMap((shape) => shape[key] ?? []));
  return new Map(schemas.flatMap((schema) => shapesOf(schema).flatMap((shape) => Object.entries(shape))));
}

/** The words that a key takes, where it takes some of a few. */
function wordsOf(schema: unknown): string[] {
  const inner = bare(schema);
  const definition = definitionOf(inner);
  if (definition?.type === "enum") return Object.values(definition.entries ?? {}).map(String);
  if (definition?.type === "boolean") return ["true", "false"];
  if (definition?.type === "union") return (definition.options ?? []).flatMap(wordsOf);
  if (definition?.type === "array") return wordsOf(definition.element);
  return [];
}

const lineKey = /^(\s*(?:- )?)([A-Za-z]+):(.*)$/;

/** The keys around a line, by how far the lines before it are set in. */
function pathTo(lines: readonly string[], indent: number): string[] {
  const path: string[] = [];
  let within = indent;
  for (let at = lines.length - 1; at >= 0 && within > 0; at--) {
    const match = lineKey.exec(lines[at] as string);
    const depth = match?.[1]?.replace("- ", "  ").length ?? Infinity;
    if (!match || depth >= within) continue;
    path.unshift(match[2] as string);
    within = depth;
  }
  return path;
}

/** Proposals for the word that ends at `offset`. */
export function completePlan(text: string, offset: number): PlanCompletion {
  const before = text.slice(0, offset);
  const lines = before.split("\n");
  const line = lines.pop() ?? "";
  const word = /[A-Za-z-]*$/.exec(line)?.[0] ?? "";
  const from = offset - word.length;
  const opens = Math.max(line.lastIndexOf("{"), line.lastIndexOf("["));
  const indent = /^\s*(?:- )?/.exec(line)?.[0].length ?? 0;
  const outer = pathTo(lines, indent);
  const own = lineKey.exec(line)?.[2];
  const path = opens > line.lastIndexOf("}") && own ? [...outer, own] : outer;
  const pair = /([A-Za-z]+):\s*\[?[^{}[\]:,]*$/.exec(line);
  if (/\bop:\s*[A-Za-z-]*$/.test(line))
    return { from, proposals: ops.map(({ name, against }) => ({ text: name, detail: `against ${against}` })) };
  if (path.includes("do") || (own === "do" && opens >= 0)) {
    const op = ops.find(({ name }) => line.includes(`op: ${name}`));
    const keys = op
      ? [
          ...Object.entries(op.parameters).map(([text_, { help }]) => ({ text: text_, detail: help })),
          { text: "chance", detail: "how often" },
        ]
      : ["op", "chance", "oneOf", "someOf", "ops"].map((text_) => ({ text: text_, detail: "" }));
    return { from, proposals: keys };
  }
  const key = pair?.[1];
  if (key !== undefined && !line.trimEnd().endsWith("{")) {
    const schema = keysAt(key === own && opens < 0 ? outer : path).get(key) ?? keysAt(outer).get(key);
    return { from, proposals: wordsOf(schema).map((text_) => ({ text: text_, detail: key })) };
  }
  return {
    from,
    proposals: [...keysAt(path).keys()].map((text_) => ({ text: text_, detail: path.join(".") || "plan" })),
  };
}
