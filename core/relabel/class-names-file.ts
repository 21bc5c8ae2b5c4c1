import { parse } from "csv-parse/sync";

const nameColumn = /^(name|class|class_?name|label|category)$/i;

/**
 * Class names from a file: a text with one a line, or a CSV whose column is called name, class, label or category
 * (else its
 * first). A line's place is its number, so empty lines and names that stand twice keep theirs.
 */
export function readClassNames(text: string, fileName: string): string[] {
  const plain = text.replace(/^\uFEFF/, "");
  if (!/\.(csv|tsv)$/i.test(fileName)) {
    const lines = plain.split(/\r?\n/).map((line) => line.trim());
    while (lines.at(-1) === "") lines.pop();
    return lines;
  }
  const rows = parse(plain, {
    relax_column_count: true,
    skip_empty_lines: true,
    trim: true,
    delimiter: /\.tsv$/i.test(fileName) ? "\t" : [",", ";"],
  });
  const column = rows[0]?.findIndex((cell) => nameColumn.test(cell)) ?? -1;
  return (column >= 0 ? rows.slice(1) : rows).map((row) => row[Math.max(0, column)] ?? "");
}
