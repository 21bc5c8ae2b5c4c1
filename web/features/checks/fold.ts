import { severities, type Severity } from "@larder/core/model/finding";

/** What many rows of one class each say together, by their code. */
const together = new Map<string, (classes: number) => string>([
  ["class-rare", (n) => `${n} classes have too few examples to learn from.`],
  ["class-lacks-split", (n) => `${n} times a split holds nothing of a class.`],
  ["class-unused", (n) => `${n} classes label nothing in stock.`],
  ["class-one-delivery", (n) => `${n} classes came with one delivery each.`],
  ["probably-mislabeled", (n) => `${n} times objects of one class look like another.`],
]);

/** More rows than this of one kind are folded. */
const shownSingly = 3;

type Row = { code: string; severity: Severity };
export type Folded<T> = { row: T } | { code: string; severity: Severity; sentence: string; rows: T[] };

/** Rows in their order; where there are many of a kind about one class each, one in place of the first that holds all. */
export function foldRows<T extends Row>(rows: readonly T[]): Folded<T>[] {
  const byCode = new Map<string, T[]>();
  for (const row of rows) byCode.set(row.code, [...(byCode.get(row.code) ?? []), row]);
  return rows.flatMap((row): Folded<T>[] => {
    const alike = byCode.get(row.code) ?? [];
    const words = together.get(row.code);
    if (!words || alike.length <= shownSingly) return [{ row }];
    if (alike[0] !== row) return [];
    const severity = severities.find((level) => alike.some((one) => one.severity === level)) ?? row.severity;
    return [{ code: row.code, severity, sentence: words(alike.length), rows: alike }];
  });
}
