import type { SchemaElement } from "hyparquet";

type Repetition = "REQUIRED" | "OPTIONAL";

function text(name: string, repetition: Repetition = "OPTIONAL"): SchemaElement {
  return {
    name,
    type: "BYTE_ARRAY",
    repetition_type: repetition,
    converted_type: "UTF8",
    logical_type: { type: "STRING" },
  };
}

function double(name: string): SchemaElement {
  return { name, type: "DOUBLE", repetition_type: "OPTIONAL" };
}

/** The three levels of a list by the published specification (LogicalTypes.md, "Lists"). */
function list(name: string, element: SchemaElement[]): SchemaElement[] {
  return [
    { name, repetition_type: "OPTIONAL", num_children: 1, converted_type: "LIST", logical_type: { type: "LIST" } },
    { name: "list", repetition_type: "REPEATED", num_children: 1 },
    ...element,
  ];
}

/** Columns of a written table, in order. */
export const columns = [
  "image",
  "width",
  "height",
  "split",
  "label",
  "labels",
  "objects",
  "caption",
  "fields",
] as const;

/** One row an image: see docs/formats.md, "parquet". */
export const schema: SchemaElement[] = [
  { name: "root", num_children: columns.length },
  { name: "image", repetition_type: "OPTIONAL", num_children: 2 },
  { name: "bytes", type: "BYTE_ARRAY", repetition_type: "OPTIONAL" },
  text("path"),
  { name: "width", type: "INT32", repetition_type: "OPTIONAL" },
  { name: "height", type: "INT32", repetition_type: "OPTIONAL" },
  text("split"),
  text("label"),
  ...list("labels", [text("element")]),
  { name: "objects", repetition_type: "OPTIONAL", num_children: 3 },
  ...list("bbox", list("element", [double("element")])),
  ...list("category", [text("element")]),
  ...list("area", [double("element")]),
  text("caption"),
  text("fields"),
];
