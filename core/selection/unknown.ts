/** Names in a selection that nothing in stock has: they select nothing, which is no error but worth a word. */
import { imageFields, objectFields, type FieldInfo } from "./fields";
import { isRange, type FieldTest, type ObjectTree, type Scalar, type SelectionTree } from "./tree";
import type { Vocabulary } from "./vocabulary";

export type UnknownName = { name: string; what: "class" | "value"; at: number; length: number };

/** The classes and values of a tree that the vocabulary does not have, in the order they stand. */
export function unknownNames(tree: SelectionTree, vocabulary: Vocabulary): UnknownName[] {
  const found: UnknownName[] = [];
  const classes = new Set(vocabulary.classes.map(({ value }) => value));
  const add = ({ text, span }: Scalar, what: UnknownName["what"]) =>
    found.push({ name: text, what, at: span?.at ?? 0, length: span?.length ?? 0 });
  const test = (node: FieldTest, fields: Record<string, FieldInfo>, listed: Vocabulary["fields"]) => {
    if (node.kind === "known" || node.operator === "like" || node.field.attribute) return;
    const lower = node.field.name.toLowerCase();
    const words = Object.hasOwn(fields, lower) ? fields[lower]?.words : undefined;
    const values = words ?? (Object.hasOwn(listed, lower) ? listed[lower]?.map(({ value }) => value) : undefined);
    if (!values) return;
    for (const value of node.values) if (!isRange(value) && !values.includes(value.text)) add(value, "value");
  };
  const walk = (node: SelectionTree | ObjectTree, within: "image" | "object"): void => {
    switch (node.kind) {
      case "all":
        return;
      case "and":
      case "or":
        for (const part of node.parts) walk(part, within);
        return;
      case "not":
        return walk(node.part, within);
      case "has":
        for (const name of node.classes ?? []) if (!classes.has(name.text)) add(name, "class");
        if (node.where) walk(node.where, "object");
        return;
      default:
        if (within === "image") test(node, imageFields, vocabulary.fields);
        else test(node, objectFields, {});
    }
  };
  walk(tree, "image");
  return found;
}
