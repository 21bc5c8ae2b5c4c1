/**
 * The histograms of the stock as parts of a selection: each stands for one part of it, which all have to hold. What is
 * chosen in a histogram is such a part, and a part that a person typed in the same form is shown as chosen.
 */
import { printSelection } from "./print";
import { allOf, conjuncts, isRange, type FieldTest, type Scalar, type SelectionTree, type Value } from "./tree";

/** Objects an image are shown in bins: 0, 1, 2, … and everything from this number on together. */
export const objectBins = 15;

export const dimensions = [
  "class",
  "split",
  "state",
  "delivery",
  "tag",
  "objects",
  "source",
  "licence",
  "camera",
  "place",
  "taken",
] as const;
export type Dimension = (typeof dimensions)[number];

/** What a bar says of images of which nothing is said. */
export const notSaid = "";

const isDimension = (name: string): name is Dimension => (dimensions as readonly string[]).includes(name);

/** What a single test chooses, and in which histogram; null where it is of another form. */
function chosenBy(tree: SelectionTree): { dimension: Dimension; keys: string[] } | null {
  if (tree.kind === "has") {
    const { least, most, where, classes } = tree;
    const plain = least === 1 && most === null && where === null && classes !== null;
    return plain ? { dimension: "class", keys: classes.map(({ text }) => text) } : null;
  }
  if (tree.kind !== "compare" && tree.kind !== "known") return null;
  const name = tree.field.name.toLowerCase();
  if (tree.field.attribute || !isDimension(name)) return null;
  if (tree.kind === "known") return tree.set || name === "class" ? null : { dimension: name, keys: [notSaid] };
  if (tree.operator !== "=" && tree.operator !== "in") return null;
  const keys = tree.values.map((value) => keyOf(name, value));
  return keys.some((key) => key === null) ? null : { dimension: name, keys: keys as string[] };
}

function keyOf(dimension: Dimension, value: Value): string | null {
  if (!isRange(value)) return value.text;
  const lastBin = dimension === "objects" && value.to === null && value.from?.text === String(objectBins);
  return lastBin ? String(objectBins) : null;
}

/** What one of the parts chooses: a single test, or several of one histogram of which one has to hold. */
function chosenPart(part: SelectionTree): { dimension: Dimension; keys: string[] } | null {
  if (part.kind !== "or") return chosenBy(part);
  const found = part.parts.map(chosenBy);
  const [first] = found;
  if (!first || found.some((one) => one?.dimension !== first.dimension)) return null;
  return { dimension: first.dimension, keys: [...new Set(found.flatMap((one) => one?.keys ?? []))] };
}

/** The histogram that a part stands for; null where it is something else. */
export function dimensionOf(part: SelectionTree): Dimension | null {
  return chosenPart(part)?.dimension ?? null;
}

/** The bars that are chosen in each histogram, by their keys. */
export function chosenIn(tree: SelectionTree): Record<Dimension, string[]> {
  const chosen = Object.fromEntries(dimensions.map((name): [Dimension, string[]] => [name, []])) as Record<
    Dimension,
    string[]
  >;
  for (const part of conjuncts(tree)) {
    const found = chosenPart(part);
    if (found) chosen[found.dimension] = [...new Set([...chosen[found.dimension], ...found.keys])];
  }
  return chosen;
}

const scalar = (text: string): Scalar => ({ text, quoted: false });

function fieldPart(dimension: Dimension, values: readonly Value[]): FieldTest {
  const field = { name: dimension, attribute: false };
  const [only] = values;
  return values.length === 1 && only
    ? { kind: "compare", field, operator: "=", values: [only] }
    : { kind: "compare", field, operator: "in", values };
}

function valueOf(dimension: Dimension, key: string): Value {
  if (dimension === "objects" && key === String(objectBins)) return { from: scalar(key), to: null };
  // Names of days and numbers of objects are read as such; any other text that looks like a number is a name.
  return scalar(key);
}

/** The part that chooses these bars of a histogram: a class counts whether objects or the whole image carry it. */
function partOf(dimension: Dimension, keys: readonly string[]): SelectionTree | null {
  if (keys.length === 0) return null;
  if (dimension === "class") {
    const classes = keys.map(scalar);
    return {
      kind: "or",
      parts: [{ kind: "has", least: 1, most: null, classes, where: null }, fieldPart("class", classes)],
    };
  }
  const said = keys.filter((key) => key !== notSaid).map((key) => valueOf(dimension, key));
  const parts: SelectionTree[] = said.length > 0 ? [fieldPart(dimension, said)] : [];
  if (said.length < keys.length)
    parts.push({ kind: "known", field: { name: dimension, attribute: false }, set: false });
  return parts.length === 1 ? (parts[0] as SelectionTree) : { kind: "or", parts };
}

/** The selection with other bars of one histogram chosen; whatever else it says stays, in its place. */
export function withChosen(tree: SelectionTree, dimension: Dimension, keys: readonly string[]): SelectionTree {
  const wanted = partOf(dimension, keys);
  const parts: SelectionTree[] = [];
  let placed = false;
  for (const part of conjuncts(tree)) {
    if (dimensionOf(part) !== dimension) parts.push(part);
    else if (!placed && wanted) {
      parts.push(wanted);
      placed = true;
    }
  }
  if (!placed && wanted) parts.push(wanted);
  return allOf(parts);
}

/** Chooses a bar, or lets go of it. */
export function toggled(tree: SelectionTree, dimension: Dimension, key: string): SelectionTree {
  const chosen = chosenIn(tree)[dimension];
  return withChosen(tree, dimension, chosen.includes(key) ? chosen.filter((one) => one !== key) : [...chosen, key]);
}

/** The text that means the images of these bars; for links and proofs. */
export function selecting(chosen: Partial<Record<Dimension, readonly string[]>>): string {
  let tree: SelectionTree = { kind: "all" };
  for (const name of dimensions) tree = withChosen(tree, name, chosen[name] ?? []);
  return printSelection(tree);
}
