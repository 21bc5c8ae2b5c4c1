/** A ledger as a CSV file, out and in. */
import { cellText, parseCell } from "@larder/core/ledger/cell-text";
import { cellValue, columnTitle, sameValue, type CellValue, type LedgerColumn } from "@larder/core/ledger/column";
import { csvRows, csvText } from "@larder/core/formats/csv/table";
import { Failure } from "@larder/core/model/failure";
import type { FileTree } from "@larder/core/model/file-tree";
import type { Selection } from "@larder/core/selection/chosen";
import { z } from "zod";
import { db, transaction } from "../../db/database";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { ledgerColumns } from "./columns";
import { ledgerRowsOf } from "./rows";
import { writeCells, type CellChange } from "./set-cells";

const nameHeader = "name";
const pageSize = 1000;
const mostRows = 100_000;

/** The ledger of a selection as CSV text, a piece at a time: a header, then a row an image. */
export async function* ledgerFile(actor: Actor, collection: number, selection: Selection): AsyncIterable<string> {
  const columns = await ledgerColumns(actor, collection);
  yield csvText([[nameHeader, ...columns.map(columnTitle)]]);
  for (let start = 0; ; start += pageSize) {
    const { ids } = await ask("page", collection, { selection, start, limit: pageSize });
    if (ids.length === 0) return;
    const rows = await ledgerRowsOf(db(), collection, ids);
    yield csvText(rows.map((row) => [row.name, ...columns.map((column) => cellText(cellValue(row, column)))]));
    if (ids.length < pageSize) return;
  }
}

export const tableFileSchema = z.object({
  text: z.string().max(60_000_000),
  /** With false nothing is written: only what would be is said. */
  write: z.boolean(),
});

/** What a file comes to: cells that will say something else, and what is wrong, by line. */
export type TableOutcome = {
  rows: number;
  changes: number;
  images: number;
  act: number | null;
  problems: { line: number; sentence: string }[];
  /** How many problems there are in all; the first hundred are named. */
  troubled: number;
};

const mostNamed = 100;

/** One file of a text, for the reader of tables. */
const treeOf = (text: string): Pick<FileTree, "stream"> => ({
  stream: async function* () {
    await Promise.resolve();
    yield new TextEncoder().encode(text);
  },
});

type Line = { line: number; name: string; cells: string[] };

/** The header's columns, null for one that is none; the place of the names. Throws where it cannot be used. */
function headerOf(header: readonly string[], columns: readonly LedgerColumn[]) {
  const at = header.findIndex((title) => title.toLowerCase() === nameHeader);
  if (at < 0)
    throw new Failure(
      "table-headless",
      `The first row has to name the columns, and one of them is "name". It says: ${header.slice(0, 8).join(", ").slice(0, 200)}.`,
      422,
    );
  const twice = header.find((title, n) => header.indexOf(title) !== n);
  if (twice !== undefined) throw new Failure("table-header-twice", `Two columns are called "${twice}".`, 422);
  const byTitle = new Map(columns.map((column) => [columnTitle(column), column]));
  return { at, columns: header.map((title, n) => (n === at ? null : (byTitle.get(title) ?? null))) };
}

/**
 * Reads a table, matches its rows to images by their names, and, where asked, writes what is right of it as one act; rows
 * with something wrong are left out whole.
 */
export async function loadLedgerFile(
  actor: Actor,
  collection: number,
  input: z.input<typeof tableFileSchema>,
): Promise<TableOutcome> {
  await allow(actor, "label", { collection });
  const { text, write } = tableFileSchema.parse(input);
  const columns = await ledgerColumns(actor, collection);
  const lines: Line[] = [];
  let header: ReturnType<typeof headerOf> | null = null;
  const problems: TableOutcome["problems"] = [];
  let troubled = 0;
  const say = (line: number, sentence: string) => {
    if (++troubled <= mostNamed) problems.push({ line, sentence });
  };
  let line = 0;
  for await (const cells of csvRows(treeOf(text) as FileTree, "table.csv")) {
    line++;
    if (!header) {
      header = headerOf(cells, columns);
      header.columns.forEach((column, n) => {
        if (!column && n !== header?.at)
          say(1, `There is no column "${cells[n] ?? ""}" in this ledger; it is left out.`);
      });
      continue;
    }
    lines.push({ line, name: cells[header.at] ?? "", cells });
    if (lines.length > mostRows)
      throw new Failure("table-long", `A table has ${mostRows.toLocaleString("en-US")} rows at most.`, 422);
  }
  if (!header) throw new Failure("table-empty", "There is nothing in this file.", 422);
  const changes = await changesOf(collection, lines, header.columns, say);
  const outcome = {
    rows: lines.length,
    changes: changes.length,
    images: new Set(changes.map(({ image }) => image)).size,
    problems,
    troubled,
  };
  if (!write || changes.length === 0) return { ...outcome, act: null };
  const byKey = new Map(columns.map((column) => [column.key as string, column]));
  return {
    ...outcome,
    act: await transaction(async (tx) => (await writeCells(tx, actor, collection, byKey, changes)).act),
  };
}

async function changesOf(
  collection: number,
  lines: readonly Line[],
  columns: readonly (LedgerColumn | null)[],
  say: (line: number, sentence: string) => void,
): Promise<CellChange[]> {
  const changes: CellChange[] = [];
  const first = new Map<string, number>();
  const twice = new Set<string>();
  for (const { name, line } of lines) {
    if (first.has(name)) twice.add(name);
    else first.set(name, line);
  }
  for (let at = 0; at < lines.length; at += pageSize) {
    const some = lines.slice(at, at + pageSize);
    const ids = await ask(
      "named",
      collection,
      some.map(({ name }) => name),
    );
    const rows = new Map(
      (await ledgerRowsOf(db(), collection, [...ids.values()].flat())).map((row) => [row.id, row] as const),
    );
    for (const { line, name, cells } of some) {
      const found = ids.get(name) ?? [];
      const row = found.length === 1 ? rows.get(found[0] as number) : undefined;
      if (twice.has(name)) {
        say(line, `"${name.slice(0, 100)}" stands in more than one row: which one holds?`);
        continue;
      }
      if (!row) {
        say(
          line,
          found.length > 1
            ? `${found.length} images are called "${name.slice(0, 100)}".`
            : `There is no image "${name.slice(0, 100)}" in stock.`,
        );
        continue;
      }
      const own: CellChange[] = [];
      let fits = true;
      columns.forEach((column, n) => {
        if (!column || cells[n] === undefined) return;
        const parsed = parseCell(column, cells[n]);
        if ("misfit" in parsed) {
          say(line, parsed.misfit);
          fits = false;
          return;
        }
        const before: CellValue = cellValue(row, column);
        if (!sameValue(before, parsed.value))
          own.push({ image: row.id, column: column.key, value: parsed.value, before });
      });
      if (fits) changes.push(...own);
    }
  }
  return changes;
}
