"use client";
import { blockFor, blockText, parseBlock } from "@larder/core/ledger/block-text";
import { cellText } from "@larder/core/ledger/cell-text";
import { cellValue, type LedgerColumn, type LedgerRow } from "@larder/core/ledger/column";
import type { ClipboardEvent } from "react";
import { toast } from "sonner";
import { number } from "@/ui/words";
import type { Block, Range } from "./range";
import type { Cells } from "./use-cells";
import type { Rows } from "./use-rows";

const mostAtOnce = 1000;

/** What is done to a block of cells: copied and pasted as spreadsheet programs do, cleared, filled down. */
export function useBlocks({
  columns,
  rows,
  cells,
  size,
  block,
  setRange,
}: {
  columns: readonly LedgerColumn[];
  rows: Rows;
  cells: Cells;
  size: { rows: number; columns: number };
  block: Block;
  setRange: (range: Range) => void;
}) {
  /** The texts of the block's cells, once all of its rows are there. */
  const textsOfBlock = async (): Promise<string[][]> => {
    const loaded = await rows.load(block.top, block.bottom);
    return loaded.map((row) =>
      columns.slice(block.left, block.right + 1).map((column) => (row ? cellText(cellValue(row, column)) : "")),
    );
  };
  /** Writes texts into the cells from a place on. */
  const fillIn = async (top: number, left: number, texts: readonly (readonly string[])[]) => {
    if (texts.length > mostAtOnce) {
      toast.error(`At most ${number(mostAtOnce)} rows are written at a time. Filter down to them, or load a table.`);
      return;
    }
    const loaded = await rows.load(top, top + texts.length - 1);
    const writes = texts.flatMap((line, n) =>
      line.flatMap((text, m) => {
        const row = loaded[n];
        const column = columns[left + m];
        if (!row || !column) return [];
        return [{ row, column, text }];
      }),
    );
    await cells.write(writes);
  };
  /** Writes one cell, once its row is there: keys may be quicker than the rows. */
  const write = async (row: number, column: number, text: string): Promise<void> => {
    try {
      await fillIn(row, column, [[text]]);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const paste = async (event: ClipboardEvent) => {
    event.preventDefault();
    const texts = blockFor(
      parseBlock(event.clipboardData.getData("text/plain")),
      { rows: block.bottom - block.top + 1, columns: block.right - block.left + 1 },
      { rows: size.rows - block.top, columns: size.columns - block.left },
    );
    if ("misfit" in texts) {
      toast.error(texts.misfit);
      return;
    }
    if (texts.length === 0) return;
    setRange({
      anchor: { row: block.top, column: block.left },
      active: { row: block.top + texts.length - 1, column: block.left + (texts[0]?.length ?? 1) - 1 },
    });
    await fillIn(block.top, block.left, texts);
  };
  const copy = (event: ClipboardEvent, cut: boolean) => {
    event.preventDefault();
    // What is not on the screen may not be there yet; the clipboard cannot wait for it within the event.
    const ready = Array.from({ length: block.bottom - block.top + 1 }, (_, n) => rows.rowAt(block.top + n));
    const known = ready.every((row) => row !== undefined);
    const textOf = (row: LedgerRow | null | undefined) =>
      columns.slice(block.left, block.right + 1).map((column) => (row ? cellText(cellValue(row, column)) : ""));
    if (known) event.clipboardData.setData("text/plain", blockText(ready.map(textOf)));
    else void textsOfBlock().then((texts) => navigator.clipboard.writeText(blockText(texts)));
    if (cut) void clear();
  };
  const clear = () =>
    fillIn(
      block.top,
      block.left,
      Array.from({ length: block.bottom - block.top + 1 }, () =>
        Array.from({ length: block.right - block.left + 1 }, () => ""),
      ),
    );
  const fillDown = async () => {
    const from = block.top === block.bottom ? block.top - 1 : block.top;
    if (from < 0 || columns.length === 0) return;
    const [source] = await rows.load(from, from);
    if (!source) return;
    const texts = columns.slice(block.left, block.right + 1).map((column) => cellText(cellValue(source, column)));
    const first = from === block.top ? block.top + 1 : block.top;
    await fillIn(
      first,
      block.left,
      Array.from({ length: block.bottom - first + 1 }, () => texts),
    );
  };
  return { write, paste, copy, clear, fillDown };
}
