/** Two texts line by line: what both have, what only one has. */
import { diffLines } from "diff";

export type DifferenceLine = { kind: "same" | "added" | "removed"; text: string };

export function differenceOfTexts(before: string, after: string): DifferenceLine[] {
  return diffLines(before, after).flatMap(({ added, removed, value }) =>
    value
      .replace(/\n$/, "")
      .split("\n")
      .map((text): DifferenceLine => ({ kind: added ? "added" : removed ? "removed" : "same", text })),
  );
}
