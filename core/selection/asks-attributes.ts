import { bindSelection, type BoundField, type BoundObject, type BoundSelection } from "./bind";
import { imageFields, objectFields, type FieldInfo, type ImageField, type ObjectField } from "./fields";
import { parseSelection } from "./parse";
import { SelectionError } from "./selection-error";

const yieldsTo = <F extends string>(field: BoundField<F>, fields: Record<F, FieldInfo>): boolean =>
  "attribute" in field || fields[field.field].yields === true;

function objectAsks(tree: BoundObject): boolean {
  if (tree.kind === "and" || tree.kind === "or") return tree.parts.some(objectAsks);
  return tree.kind === "not" ? objectAsks(tree.part) : yieldsTo<ObjectField>(tree.field, objectFields);
}

function imageAsks(tree: BoundSelection): boolean {
  switch (tree.kind) {
    case "all":
      return false;
    case "and":
    case "or":
      return tree.parts.some(imageAsks);
    case "not":
      return imageAsks(tree.part);
    case "has":
      return tree.where !== null && objectAsks(tree.where);
    default:
      return yieldsTo<ImageField>(tree.field, imageFields);
  }
}

/** Whether what a selection means depends on the attributes that there are; also where it is no selection without them. */
export function asksAttributes(text: string): boolean {
  try {
    return imageAsks(bindSelection(parseSelection(text)));
  } catch (error) {
    if (!(error instanceof SelectionError)) throw error;
    return true;
  }
}
