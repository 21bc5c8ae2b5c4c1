/** A block of cells as spreadsheet programs put it on the clipboard: tab-separated values, quoted where they need it. */
import Papa from "papaparse";

/** The text of a block, a line a row. */
export function blockText(rows: readonly (readonly string[])[]): string {
  return Papa.unparse(
    rows.map((row) => [...row]),
    { delimiter: "\t", newline: "\n" },
  );
}

/** The cells of a block; the line break that programs put after the last row makes no row. */
export function parseBlock(text: string): string[][] {
  const { data } = Papa.parse<string[]>(text.replace(/\r\n?/g, "\n").replace(/\n$/, ""), {
    delimiter: "\t",
    newline: "\n",
  });
  return data;
}

/**
 * A block for a range of `rows` × `columns` cells from a place with `room` below and right of it: one cell fills the whole
 * range, a block whose sides the range holds a whole number of times is repeated, else the block goes in once. Says what
 * is wrong where it is larger than the room.
 */
export function blockFor(
  block: readonly (readonly string[])[],
  range: { rows: number; columns: number },
  room: { rows: number; columns: number },
): string[][] | { misfit: string } {
  const height = block.length;
  const width = Math.max(0, ...block.map((row) => row.length));
  if (height === 0 || width === 0) return [];
  const repeats = range.rows % height === 0 && range.columns % width === 0;
  const [rows, columns] = repeats ? [range.rows, range.columns] : [height, width];
  if (rows > room.rows || columns > room.columns)
    return {
      misfit: `The block is ${height} × ${width} cells, and from here there is room for ${room.rows} × ${room.columns}. Nothing was pasted.`,
    };
  return Array.from({ length: rows }, (_, row) =>
    Array.from({ length: columns }, (__, column) => block[row % height]?.[column % width] ?? ""),
  );
}
