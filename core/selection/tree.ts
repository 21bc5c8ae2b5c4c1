/** A selection as a tree: what its text says, before it is known what its names mean. */

/** A place in a text: `at` counts from 0. */
export type Span = { at: number; length: number };

/** A value as it was written. What stood in quotes is a text and nothing else. */
export type Scalar = { text: string; quoted: boolean; span?: Span };

/** Both ends belong to it; an end that is left out is open. */
export type ScalarRange = { from: Scalar | null; to: Scalar | null; span?: Span };
export type Value = Scalar | ScalarRange;

export const operators = ["=", "!=", "<", "<=", ">", ">=", "in", "like"] as const;
export type Operator = (typeof operators)[number];

/** `attribute` is set where the text says `field "…"`: an attribute, also where a built-in field is called so. */
export type FieldName = { name: string; attribute: boolean; span?: Span };

export type FieldTest =
  | { kind: "compare"; field: FieldName; operator: Operator; values: readonly Value[] }
  | { kind: "known"; field: FieldName; set: boolean };

/** Conditions on one object. */
export type ObjectTree =
  | { kind: "and"; parts: readonly ObjectTree[] }
  | { kind: "or"; parts: readonly ObjectTree[] }
  | { kind: "not"; part: ObjectTree }
  | FieldTest;

/** How many objects of these classes (null: of any) that meet the conditions; `most` is null where there is no end. */
export type HasTest = {
  kind: "has";
  least: number;
  most: number | null;
  classes: readonly Scalar[] | null;
  where: ObjectTree | null;
};

export type SelectionTree =
  | { kind: "all" }
  | { kind: "and"; parts: readonly SelectionTree[] }
  | { kind: "or"; parts: readonly SelectionTree[] }
  | { kind: "not"; part: SelectionTree }
  | HasTest
  | FieldTest;

export function isRange(value: Value): value is ScalarRange {
  return "from" in value;
}

/** The parts of which all have to hold; none for what selects everything. */
export function conjuncts(tree: SelectionTree): readonly SelectionTree[] {
  if (tree.kind === "all") return [];
  return tree.kind === "and" ? tree.parts : [tree];
}

/** The tree that holds where all parts do. */
export function allOf(parts: readonly SelectionTree[]): SelectionTree {
  const flat = parts.flatMap(conjuncts);
  const [only] = flat;
  if (!only) return { kind: "all" };
  return flat.length === 1 ? only : { kind: "and", parts: flat };
}
