/** Rows of a CSV file as a stream, whatever its separator, and cells that a spreadsheet will not run. */
import { parse } from "csv-parse";
import { stringify } from "csv-stringify/sync";
import type { FileTree } from "../../model/file-tree";

const separators = [",", ";", "\t"] as const;

/** The separator that stands most often in the first line, outside quotes. */
export function separatorOf(start: string): string {
  const line = (start.split(/\r?\n/, 1)[0] ?? "").replace(/"(?:[^"]|"")*"/g, "");
  const counts = separators.map((separator) => line.split(separator).length - 1);
  return separators[counts.indexOf(Math.max(...counts))] ?? ",";
}

const longestHeader = 1 << 16;

const guarded = /^'+[=+\-@\t\r]/;
const formula = /^'*[=+\-@\t\r]/;

/** A text cell with a leading apostrophe where a spreadsheet would run it as a formula. */
export function guardCell(text: string): string {
  return formula.test(text) ? `'${text}` : text;
}

/** Takes that guard off again. */
export function unguardCell(text: string): string {
  return guarded.test(text) ? text.slice(1) : text;
}

/**
 * Every row of a CSV file with its cells trimmed and unguarded. Quoting errors are read leniently. Throws where it
 * cannot go on.
 */
export async function* csvRows(files: FileTree, path: string): AsyncIterable<string[]> {
  const source = files.stream(path)[Symbol.asyncIterator]();
  const first: Uint8Array[] = [];
  let start = "";
  // The first line tells the separator; it may come in several chunks.
  while (!/[\r\n]/.test(start) && start.length < longestHeader) {
    const next = await source.next();
    if (next.done) break;
    first.push(next.value.slice());
    start += new TextDecoder("latin1").decode(next.value);
  }
  if (first.length === 0) return;
  const parser = parse({
    delimiter: separatorOf(start),
    bom: true,
    relax_column_count: true,
    relax_quotes: true,
    skip_empty_lines: true,
  });
  const feeding = (async () => {
    const chunks = async function* (): AsyncIterable<Uint8Array> {
      yield* first;
      for (let next = await source.next(); !next.done; next = await source.next()) yield next.value.slice();
    };
    for await (const chunk of chunks()) {
      if (!parser.write(chunk)) await new Promise<void>((resume) => parser.once("drain", resume).once("close", resume));
      if (parser.destroyed) return;
    }
    parser.end();
  })();
  feeding.catch((error: unknown) => parser.destroy(error instanceof Error ? error : new Error(String(error))));
  try {
    for await (const row of parser) yield (row as string[]).map((cell) => unguardCell(cell.trim()));
  } finally {
    parser.destroy();
  }
}

/** Rows as CSV text with a line feed after each; text cells are guarded. */
export function csvText(rows: Iterable<readonly (string | number)[]>): string {
  return stringify(
    [...rows].map((row) => row.map((cell) => (typeof cell === "string" ? guardCell(cell) : String(cell)))),
  );
}

/**
 * The cells of the first row of a file's first bytes, for recognising; quotes are taken off where they enclose a cell.
 */
export function firstCells(start: string): string[] {
  const text = start.replace(/^\uFEFF/, "");
  return (text.split(/\r?\n/, 1)[0] ?? "")
    .split(separatorOf(text))
    .map((cell) => cell.trim().replace(/^"(.*)"$/, "$1"));
}

const fileWords = new Set([
  "filename",
  "file_name",
  "file",
  "image",
  "image_path",
  "imagepath",
  "path",
  "img",
  "image_name",
  "filepath",
  "file_path",
]);
const splitWords = new Set(["split", "set", "subset"]);

/** True for a header's name of the column that names the picture. */
export function isFileColumn(name: string): boolean {
  return fileWords.has(name.toLowerCase());
}

export function isSplitColumn(name: string): boolean {
  return splitWords.has(name.toLowerCase());
}
