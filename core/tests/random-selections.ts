/** Random trees of the selection language over a given vocabulary, for property tests. */
import fc from "fast-check";
import type {
  FieldName,
  FieldTest,
  HasTest,
  ObjectTree,
  Operator,
  Scalar,
  SelectionTree,
  Value,
} from "../selection/tree";

/** Fields by what they hold, each with values to ask for. */
export type Vocabulary = {
  texts: Record<string, readonly string[]>;
  numbers: Record<string, readonly number[]>;
  dates: Record<string, readonly string[]>;
  truths: readonly string[];
  attributes: Record<string, readonly string[]>;
};

const bare = (text: string): Scalar => ({ text, quoted: false });
const field = (name: string, attribute = false): FieldName => ({ name, attribute });
const compare = (of: FieldName, operator: Operator, values: readonly Value[]): FieldTest => ({
  kind: "compare",
  field: of,
  operator,
  values,
});
const orders = fc.constantFrom<Operator>("<", "<=", ">", ">=", "=", "!=");

function several(values: readonly Value[]): fc.Arbitrary<{ operator: Operator; values: Value[] }> {
  const one = fc.constantFrom(...values);
  return fc.oneof(
    fc.record({ operator: fc.constantFrom<Operator>("=", "!="), values: one.map((value) => [value]) }),
    fc.record({ operator: fc.constant<Operator>("in"), values: fc.array(one, { minLength: 1, maxLength: 3 }) }),
  );
}

function textTest(of: FieldName, texts: readonly string[]): fc.Arbitrary<FieldTest> {
  const pattern = fc
    .constantFrom(...texts)
    .chain((text) => fc.constantFrom(text, `${text.slice(0, 2)}*`, `*${text.slice(-2)}`, text.replace(/./u, "?"), "*"))
    .map((text) => bare(text.toUpperCase()));
  return fc.oneof(
    several(texts.map(bare)).map(({ operator, values }) => compare(of, operator, values)),
    pattern.map((value) => compare(of, "like", [value])),
  );
}

const inOrder = (a: string, b: string) =>
  Number.isNaN(Number(a)) || Number.isNaN(Number(b)) ? a <= b : Number(a) <= Number(b);

function orderedTest(of: FieldName, values: readonly string[]): fc.Arbitrary<FieldTest> {
  const one = fc.constantFrom(...values.map(bare));
  const range = fc
    .record({ from: fc.option(one), to: fc.option(one) })
    .filter(({ from, to }) => (from !== null || to !== null) && (!from || !to || inOrder(from.text, to.text)));
  return fc.oneof(
    fc.tuple(orders, one).map(([operator, value]) => compare(of, operator, [value])),
    range.map((value) => compare(of, "=", [value])),
    several(values.map(bare)).map(({ operator, values: some }) => compare(of, operator, some)),
  );
}

function tests(vocabulary: Vocabulary): fc.Arbitrary<FieldTest> {
  const entries = <T>(record: Record<string, T>) => Object.entries(record);
  const names = [
    ...Object.keys(vocabulary.texts),
    ...Object.keys(vocabulary.numbers),
    ...Object.keys(vocabulary.dates),
    ...vocabulary.truths,
  ];
  const all = [
    ...entries(vocabulary.texts).map(([name, values]) => textTest(field(name), values)),
    ...entries(vocabulary.numbers).map(([name, values]) => orderedTest(field(name), values.map(String))),
    ...entries(vocabulary.dates).map(([name, values]) => orderedTest(field(name), values)),
    ...vocabulary.truths.map((name) =>
      several([bare("yes"), bare("no")]).map(({ operator, values }) => compare(field(name), operator, values)),
    ),
    ...entries(vocabulary.attributes).map(([name, values]) => textTest(field(name, true), values)),
    ...entries(vocabulary.attributes).map(([name, values]) =>
      orderedTest(field(name, true), [...values.filter((value) => /^\d+$/.test(value)), "5.5"]),
    ),
    fc
      .tuple(fc.constantFrom(...names), fc.boolean())
      .map(([name, set]): FieldTest => ({ kind: "known", field: field(name), set })),
    fc
      .tuple(fc.constantFrom(...Object.keys(vocabulary.attributes), ...names.slice(0, 1)), fc.boolean())
      .filter(([name]) => Object.hasOwn(vocabulary.attributes, name))
      .map(([name, set]): FieldTest => ({ kind: "known", field: field(name, true), set })),
  ];
  return fc.oneof(...all);
}

/** Trees over one kind of leaf, three levels deep at most; "and" and "or" have two parts or three. */
function trees<T>(leaf: fc.Arbitrary<T>): fc.Arbitrary<T> {
  type Node = T | { kind: "and" | "or"; parts: Node[] } | { kind: "not"; part: Node };
  const { tree } = fc.letrec<{ tree: Node }>((tie) => ({
    tree: fc.oneof(
      { maxDepth: 3, depthSize: "small" },
      leaf,
      fc.record({
        kind: fc.constantFrom("and" as const, "or" as const),
        parts: fc.array(tie("tree"), { minLength: 2, maxLength: 3 }),
      }),
      fc.record({ kind: fc.constant("not" as const), part: tie("tree") }),
    ),
  }));
  return tree as fc.Arbitrary<T>;
}

/** Random selections over the fields of images and, inside `has`, of objects. */
export function randomSelections(
  image: Vocabulary,
  object: Vocabulary,
  classes: readonly string[],
): fc.Arbitrary<SelectionTree> {
  const conditions = trees<ObjectTree>(tests(object));
  const has = fc
    .record({
      least: fc.nat(3),
      span: fc.option(fc.nat(3)),
      classes: fc.option(fc.subarray([...classes], { minLength: 1 })),
      where: fc.option(conditions),
    })
    .map(({ least, span, classes: names, where }): HasTest => ({
      kind: "has",
      least,
      most: span === null ? null : least + span,
      classes: names === null ? null : names.map(bare),
      where,
    }));
  return fc.oneof(
    { weight: 1, arbitrary: fc.constant<SelectionTree>({ kind: "all" }) },
    { weight: 20, arbitrary: trees<SelectionTree>(fc.oneof(has, tests(image))) },
  );
}
