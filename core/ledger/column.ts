/** The columns of a ledger: what is said of whole images, one column a thing, and the values that their cells hold. */
import type { AttributeSchema } from "../model/attribute-schema";
import type { AttributeValue } from "../model/item";

/**
 * `key` tells a column from the others: "split", "classes", "tags", "caption", or "attribute:" and its name. An attribute
 * that nobody declared has no schema: whatever its images say of it stands.
 */
export type LedgerColumn =
  | { key: "split"; kind: "split" }
  | { key: "classes"; kind: "classes"; names: readonly string[] }
  | { key: "tags"; kind: "tags"; names: readonly string[] }
  | { key: "caption"; kind: "caption" }
  | {
      key: `attribute:${string}`;
      kind: "attribute";
      name: string;
      schema: AttributeSchema | null;
      /** Values that images have already, the commonest first. */
      known: readonly string[];
    };

export const attributeKey = (name: string): `attribute:${string}` => `attribute:${name}`;

export function columnTitle(column: LedgerColumn): string {
  return column.kind === "attribute" ? column.name : column.kind;
}

/** What a cell holds; null where nothing is said. */
export type CellValue = AttributeValue | null;

/** An image as a row; `classes` by name, the lists in their order. */
export type LedgerRow = {
  id: number;
  name: string;
  revision: number;
  split: string | null;
  classes: readonly string[];
  tags: readonly string[];
  captions: readonly string[];
  attributes: Readonly<Record<string, AttributeValue>>;
};

const orUnset = (list: readonly string[]): CellValue => (list.length === 0 ? null : [...list]);

/** What a row says in a column. Several captions are lines of one text. */
export function cellValue(row: LedgerRow, column: LedgerColumn): CellValue {
  switch (column.kind) {
    case "split":
      return row.split;
    case "classes":
      return orUnset(row.classes);
    case "tags":
      return orUnset(row.tags);
    case "caption":
      return row.captions.length === 0 ? null : row.captions.join("\n");
    case "attribute":
      return Object.hasOwn(row.attributes, column.name) ? (row.attributes[column.name] ?? null) : null;
  }
}

export const sameValue = (a: CellValue, b: CellValue) => JSON.stringify(a) === JSON.stringify(b);

/** Words that are completed while a cell of a column is typed. */
export function choicesOf(column: LedgerColumn): readonly string[] {
  switch (column.kind) {
    case "split":
      return ["train", "val", "test"];
    case "classes":
    case "tags":
      return column.names;
    case "caption":
      return [];
    case "attribute":
      switch (column.schema?.kind) {
        case "choice":
        case "several":
          return column.schema.values;
        case "yes-no":
          return ["yes", "no"];
        case "number":
          return [];
        default:
          return column.known;
      }
  }
}

/** Whether a cell of a column holds a list. */
export function holdsList(column: LedgerColumn): boolean {
  return (
    column.kind === "classes" ||
    column.kind === "tags" ||
    (column.kind === "attribute" && column.schema?.kind === "several")
  );
}
