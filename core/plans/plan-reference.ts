/** The plan document described: every key with what it takes and its default, every op with its parameters. */
import { kindTitles, ops } from "../imaging/ops/registry";
import type { AnyOp, NumberParameter, OpKind, Parameter } from "../imaging/ops/op";
import { planSchema } from "./plan";
import { planToYaml } from "./plan-text";

const units: Record<NumberParameter["unit"], string> = {
  share: "%",
  degrees: "°",
  pixels: " px",
  stops: " stops",
  bits: " bits",
  times: "",
  level: "",
  "": "",
};

function number(value: number, { unit }: NumberParameter): string {
  return `${Number((unit === "share" ? value * 100 : value).toPrecision(6))}${units[unit]}`;
}

function range(value: number | readonly [number, number], parameter: NumberParameter): string {
  return typeof value === "number" ? number(value, parameter) : value.map((end) => number(end, parameter)).join(" to ");
}

/** What a parameter takes, and what it is where nothing is said. */
function parameterCells(parameter: Parameter): [takes: string, byDefault: string] {
  switch (parameter.kind) {
    case "number":
      return [
        `${range([parameter.min, parameter.max], parameter)}, one or a range`,
        range(parameter.default, parameter),
      ];
    case "one-of":
      return [`some of ${parameter.options.join(", ")}`, parameter.default.join(", ")];
    case "choice":
      return [`${parameter.options.join(", ")}${parameter.colour ? ", `#rrggbb`" : ""}`, parameter.default];
    case "classes":
      return ["names of classes", "all"];
    case "tones":
      return ["a list of tone ops", "none"];
  }
}

function opSection(op: AnyOp): string[] {
  const rows = Object.entries(op.parameters).map(([name, parameter]) => {
    const [takes, byDefault] = parameterCells(parameter);
    return `| \`${name}\` | ${takes} | ${byDefault} | ${parameter.help} |`;
  });
  return [
    `#### \`${op.name}\``,
    "",
    `${op.help} Against: ${op.against}.`,
    "",
    ...(rows.length > 0 ? ["| parameter | takes | default | |", "|---|---|---|---|", ...rows, ""] : []),
    `![${op.title}](ops/${op.name}.webp)`,
    "",
  ];
}

/** The part of docs/plan.md that is made from the registry of ops. */
export function opsReference(): string {
  const kinds = [...new Set(ops.map(({ kind }) => kind))] as OpKind[];
  return kinds
    .flatMap((kind) => [`### ${kindTitles[kind]}`, "", ...ops.filter((op) => op.kind === kind).flatMap(opSection)])
    .join("\n");
}

/** Every default of the plan document, as YAML. */
export function defaultsReference(): string {
  const defaults = planSchema.parse({});
  return `# what differs from this is written: ${planToYaml(defaults).trim()}\n${JSON.stringify(defaults, null, 2)}`;
}
