import { expect, it } from "vitest";
import { foldRows } from "./fold";

const row = (code: string, n: number) => ({ code, severity: "warning" as const, n });

it("holds many rows about one class each in one, in place of the first, and leaves few and others alone", () => {
  const few = [row("class-unused", 1), row("split-small", 2), row("class-unused", 3)];
  expect(foldRows(few)).toEqual(few.map((one) => ({ row: one })));
  const many = [row("split-small", 0), ...[1, 2, 3, 4, 5].map((n) => row("class-rare", n)), row("image-missing", 6)];
  expect(foldRows(many)).toEqual([
    { row: many[0] },
    {
      code: "class-rare",
      severity: "warning",
      sentence: "5 classes have too few examples to learn from.",
      rows: many.slice(1, 6),
    },
    { row: many[6] },
  ]);
});
