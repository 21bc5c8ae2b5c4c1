/** Tree → text. What is printed parses to the same tree. */
import { quote, standsBare } from "./tokens";
import {
  isRange,
  type FieldName,
  type FieldTest,
  type HasTest,
  type ObjectTree,
  type Scalar,
  type SelectionTree,
  type Value,
} from "./tree";

function scalarText({ text, quoted }: Scalar, asValue: boolean): string {
  return quoted || !standsBare(text, { asValue }) ? quote(text) : text;
}

/** A name of a class: one that is all digits would read as a count. */
const className = (name: Scalar) => (/^\d+$/.test(name.text) ? quote(name.text) : scalarText(name, false));

function fieldText({ name, attribute }: FieldName): string {
  if (attribute) return `field ${quote(name)}`;
  return standsBare(name) ? name : quote(name);
}

function valueText(value: Value): string {
  if (!isRange(value)) return scalarText(value, true);
  const end = (scalar: Scalar | null) => (scalar === null ? "" : scalarText(scalar, true));
  return `${end(value.from)}..${end(value.to)}`;
}

function testText(test: FieldTest): string {
  const field = fieldText(test.field);
  if (test.kind === "known") return `${field} is ${test.set ? "set" : "unset"}`;
  const values = test.values.map(valueText);
  return `${field} ${test.operator} ${test.operator === "in" ? `{${values.join(", ")}}` : values.join(", ")}`;
}

function hasText({ least, most, classes, where }: HasTest): string {
  const names =
    classes === null
      ? "any"
      : classes.length === 1
        ? className(classes[0] as Scalar)
        : `{${classes.map(className).join(", ")}}`;
  const conditions = where === null ? "" : ` (${treeText(where, "text")})`;
  if (least === 0 && most === 0) return `no ${names}${conditions}`;
  const count =
    least === 1 && most === null ? "" : least === most ? `${least} ` : `${least === 0 ? "" : least}..${most ?? ""} `;
  return `has ${least === 0 && most === null ? "0.. " : count}${names}${conditions}`;
}

/** `within` is what the text stands in: an "or" inside an "and" needs brackets, as does either inside a "not". */
function treeText(tree: SelectionTree | ObjectTree, within: "or" | "and" | "not" | "text"): string {
  switch (tree.kind) {
    case "all":
      return "";
    case "or":
    case "and": {
      const text = tree.parts.map((part) => treeText(part, tree.kind)).join(` ${tree.kind} `);
      // The same kind again keeps its brackets: the tree stays as it is.
      const bare = within === "text" || (within === "or" && tree.kind === "and");
      return bare ? text : `(${text})`;
    }
    case "not":
      return `not ${treeText(tree.part, "not")}`;
    case "has":
      return hasText(tree);
    default:
      return testText(tree);
  }
}

/** The text of a tree, with as few brackets and quotes as it takes. */
export function printSelection(tree: SelectionTree): string {
  return treeText(tree, "text");
}
