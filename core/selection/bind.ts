/** Tree → what it means: fields found, values read as what their field holds. */
import { distance } from "fastest-levenshtein";
import type { Criterion, Interval } from "./criterion";
import { imageFields, objectFields, type FieldInfo, type ImageField, type ObjectField } from "./fields";
import { asMoment, asNumber, truthIn } from "./scalars";
import { SelectionError } from "./selection-error";
import { isRange } from "./tree";
import type { FieldName, FieldTest, ObjectTree, Operator, Scalar, SelectionTree, Span, Value } from "./tree";

/** Names of attributes that something in the collection carries, or a class or the collection declares. */
export type KnownAttributes = { image: Iterable<string>; object: Iterable<string> };
export const noAttributes: KnownAttributes = { image: [], object: [] };

/** A built-in field, or an attribute by each of its names that differ in case alone. */
export type BoundField<F extends string> = { field: F } | { attribute: readonly string[] };

export type BoundTest<F extends string> =
  | { kind: "compare"; field: BoundField<F>; criterion: Criterion }
  | { kind: "known"; field: BoundField<F>; set: boolean };

export type BoundObject =
  | { kind: "and"; parts: readonly BoundObject[] }
  | { kind: "or"; parts: readonly BoundObject[] }
  | { kind: "not"; part: BoundObject }
  | BoundTest<ObjectField>;

export type BoundHas = {
  kind: "has";
  least: number;
  most: number;
  /** Null: of any class. */
  classes: ReadonlySet<string> | null;
  where: BoundObject | null;
  /** Whether proposals nobody has answered count too: where the conditions ask for them. */
  suggestions: boolean;
};

export type BoundSelection =
  | { kind: "all" }
  | { kind: "and"; parts: readonly BoundSelection[] }
  | { kind: "or"; parts: readonly BoundSelection[] }
  | { kind: "not"; part: BoundSelection }
  | BoundHas
  | BoundTest<ImageField>;

const fail = (message: string, span: Span | undefined, expected: readonly string[] = []): never => {
  throw new SelectionError(message, (span?.at ?? 0) + 1, span?.length ?? 0, expected);
};

/** The names nearest to one that is none, at most three letters and a third of its length away. */
function proposals(name: string, names: readonly string[]): string[] {
  const lower = name.toLowerCase();
  const most = Math.min(3, Math.max(1, Math.floor(name.length / 3)));
  return [...new Set(names)]
    .map((known) => ({ known, letters: distance(lower, known.toLowerCase()) }))
    .filter(({ letters }) => letters <= most)
    .sort((a, b) => a.letters - b.letters)
    .map(({ known }) => known)
    .slice(0, 3);
}

/** The fields of one scope: the built-in ones and the attributes, each under its name in lower case. */
class Scope<F extends string> {
  private readonly attributes = new Map<string, string[]>();
  constructor(
    readonly fields: Record<F, FieldInfo>,
    attributes: Iterable<string>,
    private readonly where: string,
  ) {
    for (const name of attributes) {
      const lower = name.toLowerCase();
      const known = this.attributes.get(lower);
      if (known) known.push(name);
      else this.attributes.set(lower, [name]);
    }
  }

  bind({ name, attribute, span }: FieldName): BoundField<F> {
    const lower = name.toLowerCase();
    const known = this.attributes.get(lower);
    const builtIn = !attribute && Object.hasOwn(this.fields, lower) ? (lower as F) : null;
    if (builtIn !== null && !(known && this.fields[builtIn].yields)) return { field: builtIn };
    if (known) return { attribute: known };
    const names = [...(attribute ? [] : Object.keys(this.fields)), ...[...this.attributes.values()].flat()];
    const near = proposals(name, names);
    const hint = near.length > 0 ? `. Did you mean ${near.join(" or ")}?` : "";
    return fail(`"${name}" is no field${this.where}${hint}`, span, near);
  }

  kindOf(field: BoundField<F>): FieldInfo {
    return "field" in field ? this.fields[field.field] : { kind: "attribute", meaning: "" };
  }
}

const everything = { low: -Infinity, lowOpen: false, high: Infinity, highOpen: false };

/** The stretch that an operator and a value mean, the value being `from` up to but not including `to` where it is a time. */
function stretch(operator: Operator, from: number, to: number, highOpen: boolean): Interval {
  switch (operator) {
    case "<":
      return { ...everything, high: from, highOpen: true };
    case "<=":
      return { ...everything, high: to, highOpen };
    case ">":
      return { ...everything, low: highOpen ? to : from, lowOpen: !highOpen };
    case ">=":
      return { ...everything, low: from };
    default:
      return { low: from, lowOpen: false, high: to, highOpen };
  }
}

function numbersOf(operator: Operator, value: Value, refuse: (scalar: Scalar) => never): Interval {
  const read = (scalar: Scalar) => asNumber(scalar) ?? refuse(scalar);
  if (!isRange(value)) {
    const exact = read(value);
    return stretch(operator, exact, exact, false);
  }
  const low = value.from ? read(value.from) : -Infinity;
  const high = value.to ? read(value.to) : Infinity;
  if (low > high) fail(`This range ends before it begins: ${low} is more than ${high}`, value.span);
  return { ...everything, low, high };
}

function datesOf(operator: Operator, value: Value, refuse: (scalar: Scalar) => never): Interval {
  const read = (scalar: Scalar) => asMoment(scalar) ?? refuse(scalar);
  if (!isRange(value)) {
    const { from, to } = read(value);
    return stretch(operator, from, to, true);
  }
  const low = value.from ? read(value.from).from : -Infinity;
  const high = value.to ? read(value.to).to : Infinity;
  if (low >= high) fail("This range ends before it begins", value.span);
  return { low, lowOpen: false, high, highOpen: high !== Infinity };
}

const empty = (operator: Operator): Criterion => ({
  negated: operator === "!=",
  texts: new Set(),
  pattern: null,
  numbers: [],
  dates: [],
  truths: [],
});

const orders = new Set<Operator>(["<", "<=", ">", ">="]);

const wanted: Record<FieldInfo["kind"], string> = {
  words: "a name",
  texts: "a text",
  numbers: "a number",
  dates: "a date, such as 2026-11-19",
  truths: "yes or no",
  attribute: "a number or a date",
};

function criterionOf(name: FieldName, { kind }: FieldInfo, operator: Operator, values: readonly Value[]): Criterion {
  const criterion = empty(operator);
  const [first] = values;
  const refuse = (scalar: Scalar): never =>
    fail(`"${scalar.text}" is no value for ${name.name}: it is compared with ${wanted[kind]}`, scalar.span, [
      wanted[kind],
    ]);
  if (operator === "like") {
    if (kind !== "texts" && kind !== "words" && kind !== "attribute")
      fail(`${name.name} is no text: like compares texts; ${name.name} takes ${wanted[kind]}`, name.span);
    return { ...criterion, pattern: (first as Scalar).text };
  }
  if (orders.has(operator) && first && isRange(first)) fail(`${operator} takes one value, not a range`, first.span);
  if (orders.has(operator) && (kind === "words" || kind === "texts" || kind === "truths"))
    fail(`${name.name} has no order: ${operator} compares numbers and dates`, name.span, ["=", "!=", "in"]);
  if (kind === "numbers") return { ...criterion, numbers: values.map((value) => numbersOf(operator, value, refuse)) };
  if (kind === "dates") return { ...criterion, dates: values.map((value) => datesOf(operator, value, refuse)) };
  if (kind === "truths")
    return {
      ...criterion,
      truths: values.map((value) => {
        if (isRange(value)) return fail(`${name.name} is yes or no, not a range`, value.span);
        return truthIn(value.text) ?? refuse(value);
      }),
    };
  if (kind !== "attribute")
    return {
      ...criterion,
      texts: new Set(
        values.map((value) =>
          isRange(value) ? fail(`${name.name} is a text, and has no ranges`, value.span) : value.text,
        ),
      ),
    };
  return attributeCriterion(operator, values, criterion, refuse);
}

/** An attribute may hold anything: each value is taken as everything that it reads as. */
function attributeCriterion(
  operator: Operator,
  values: readonly Value[],
  criterion: Criterion,
  refuse: (scalar: Scalar) => never,
): Criterion {
  const texts = new Set<string>();
  const [numbers, dates, truths]: [Interval[], Interval[], boolean[]] = [[], [], []];
  for (const value of values) {
    const scalars = isRange(value) ? [value.from, value.to].filter((scalar) => scalar !== null) : [value];
    const exact = !isRange(value) && !orders.has(operator);
    if (exact) {
      texts.add(value.text);
      const truth = truthIn(value.text) ?? (value.text === "true" ? true : value.text === "false" ? false : null);
      if (truth !== null) truths.push(truth);
    }
    if (scalars.every((scalar) => asNumber(scalar) !== null)) numbers.push(numbersOf(operator, value, refuse));
    else if (scalars.every((scalar) => asMoment(scalar) !== null)) dates.push(datesOf(operator, value, refuse));
    else if (!exact) refuse(scalars.find((scalar) => asNumber(scalar) === null) as Scalar);
  }
  return { ...criterion, texts, numbers, dates, truths };
}

function bindTest<F extends string>(test: FieldTest, scope: Scope<F>): BoundTest<F> {
  const field = scope.bind(test.field);
  if (test.kind === "known") return { kind: "known", field, set: test.set };
  const criterion = criterionOf(test.field, scope.kindOf(field), test.operator, test.values);
  return { kind: "compare", field, criterion };
}

/** Whether conditions ask about proposals. */
function asksSuggestions(tree: BoundObject): boolean {
  if (tree.kind === "and" || tree.kind === "or") return tree.parts.some(asksSuggestions);
  if (tree.kind === "not") return asksSuggestions(tree.part);
  return "field" in tree.field && tree.field.field === "suggested";
}

/**
 * Finds what a tree's names mean among the built-in fields and the attributes that are known. Throws a SelectionError
 * for a name that is no field, and for a value of a wrong kind.
 */
export function bindSelection(tree: SelectionTree, attributes: KnownAttributes = noAttributes): BoundSelection {
  const image = new Scope<ImageField>(imageFields, attributes.image, "");
  const object = new Scope<ObjectField>(objectFields, attributes.object, " of an object");
  const bindObject = (node: ObjectTree): BoundObject => {
    if (node.kind === "and" || node.kind === "or") return { kind: node.kind, parts: node.parts.map(bindObject) };
    if (node.kind === "not") return { kind: "not", part: bindObject(node.part) };
    return bindTest(node, object);
  };
  const bind = (node: SelectionTree): BoundSelection => {
    switch (node.kind) {
      case "all":
        return node;
      case "and":
      case "or":
        return { kind: node.kind, parts: node.parts.map(bind) };
      case "not":
        return { kind: "not", part: bind(node.part) };
      case "has": {
        const most = node.most ?? Infinity;
        if (node.least > most) fail(`No image has at least ${node.least} and at most ${most}`, node.classes?.[0]?.span);
        const where = node.where === null ? null : bindObject(node.where);
        return {
          kind: "has",
          least: node.least,
          most,
          classes: node.classes === null ? null : new Set(node.classes.map(({ text }) => text)),
          where,
          suggestions: where !== null && asksSuggestions(where),
        };
      }
      default:
        return bindTest(node, image);
    }
  };
  return bind(tree);
}
