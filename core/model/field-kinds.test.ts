import { describe, expect, it } from "vitest";
import { kindOfText, kindsOfFields, type FieldKind } from "./field-kinds";

const texts: Record<FieldKind | "nothing", readonly string[]> = {
  number: ["12", "-0.5", "+3,14", "1.234.567,89", "1,234", "12 %", "€ 4.50", "4,50 €", "12.50 EUR", "$1,200.00", " 7 "],
  date: [
    "2026-11-27",
    "2026-1-3",
    "2026-11-27T08:15Z",
    "2026-11-27 08:15:30.5+01:00",
    "27.11.2026",
    "11/27/26",
    "3-4-2026",
  ],
  JSON: ['{"a": 1}', "[1, 2]", "[]"],
  text: [
    "twelve",
    "1.2.3.4",
    "12 rolls",
    "2026-13-01",
    "45.11.2026",
    "13/13/2026",
    "{a: 1}",
    "[1, 2",
    "1,23,456",
    "1".repeat(61),
  ],
  nothing: ["", "  "],
};

describe("the kind of a text", () => {
  it.each(Object.entries(texts).flatMap(([kind, list]) => list.map((text) => [text, kind] as const)))(
    "of %j is %s",
    (text, kind) => {
      expect(kindOfText(text) ?? "nothing").toBe(kind);
    },
  );
});

it("of several texts is that of all of them, or text; empty fields have none", () => {
  const fields = { total: ["1", "2"], mixed: ["1", "x"], day: "1.2.2026", none: "", empty: [], spaced: [" ", "3"] };
  expect(kindsOfFields(fields)).toEqual([
    ["total", "number"],
    ["mixed", "text"],
    ["day", "date"],
    ["spaced", "number"],
  ]);
});
