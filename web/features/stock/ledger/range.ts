/** Which cells of a ledger are meant: one that the keyboard is at, and a block that reaches from another one to it. */
export type Place = { row: number; column: number };
export type Range = { active: Place; anchor: Place };

export const at = (row: number, column: number): Range => ({ active: { row, column }, anchor: { row, column } });

export type Block = { top: number; left: number; bottom: number; right: number };

export function blockOf({ active, anchor }: Range): Block {
  return {
    top: Math.min(active.row, anchor.row),
    left: Math.min(active.column, anchor.column),
    bottom: Math.max(active.row, anchor.row),
    right: Math.max(active.column, anchor.column),
  };
}

export const holdsPlace = ({ top, left, bottom, right }: Block, row: number, column: number) =>
  row >= top && row <= bottom && column >= left && column <= right;

const within = (value: number, size: number) => Math.max(0, Math.min(size - 1, value));

/** Moves by some cells, within the table; with `extend` the anchor stays where it is. */
export function moved(
  range: Range,
  by: { rows: number; columns: number },
  size: { rows: number; columns: number },
  extend: boolean,
): Range {
  const active = {
    row: within(range.active.row + by.rows, size.rows),
    column: within(range.active.column + by.columns, size.columns),
  };
  return { active, anchor: extend ? range.anchor : active };
}

/** The next cell as Tab goes: to the right, from the last column to the first of the next row; or back. */
export function tabbed(range: Range, back: boolean, size: { rows: number; columns: number }): Range | null {
  const index = range.active.row * size.columns + range.active.column + (back ? -1 : 1);
  if (index < 0 || index >= size.rows * size.columns) return null;
  return at(Math.floor(index / size.columns), index % size.columns);
}
