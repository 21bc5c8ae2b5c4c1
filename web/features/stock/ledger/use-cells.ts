"use client";
import { parseCell } from "@larder/core/ledger/cell-text";
import { cellValue, sameValue, type CellValue, type LedgerColumn, type LedgerRow } from "@larder/core/ledger/column";
import type { CellChange, SavedCells } from "@larder/server/services/ledger/set-cells";
import { useCallback, useState } from "react";
import { api } from "@/features/live/api";

/** What is under way with a cell, or wrong with it; `text` is what was typed. */
export type CellMark =
  | { state: "saving"; text: string }
  | { state: "saved" }
  | { state: "invalid"; text: string; sentence: string }
  | { state: "changed"; text: string; value: CellValue; now: CellValue }
  | { state: "failed"; text: string; sentence: string };

export type Write = { row: LedgerRow; column: LedgerColumn; text: string };

export const markKey = (image: number, column: string) => `${image} ${column}`;

const atOnce = 1000;
const savedShownFor = 1800;

/** What was typed into cells and is not said yet: saved at once where it fits, kept and marked where it does not. */
export function useCells(collection: number, onSaved: (rows: readonly LedgerRow[]) => void) {
  const [marks, setMarks] = useState<ReadonlyMap<string, CellMark>>(new Map());
  const mark = useCallback(
    (entries: readonly (readonly [string, CellMark | null])[]) =>
      setMarks((before) => {
        const next = new Map(before);
        for (const [key, value] of entries)
          if (value) next.set(key, value);
          else next.delete(key);
        return next;
      }),
    [],
  );

  const send = async (writes: readonly (Write & { value: CellValue; before: CellValue })[]) => {
    const keyOf = ({ row, column }: Write) => markKey(row.id, column.key);
    mark(writes.map((write) => [keyOf(write), { state: "saving", text: write.text }]));
    try {
      const { rows, refused } = await api<SavedCells>(`/api/collections/${collection}/ledger`, {
        method: "POST",
        body: writes.map(({ row, column, value, before }): CellChange => ({
          image: row.id,
          column: column.key,
          value,
          before,
        })),
      });
      onSaved(rows);
      const now = new Map(refused.map((cell) => [markKey(cell.image, cell.column), cell.now]));
      const saved = writes.filter((write) => !now.has(keyOf(write)));
      mark([
        ...saved.map((write) => [keyOf(write), { state: "saved" }] as const),
        ...writes.flatMap((write) => {
          const key = keyOf(write);
          if (!now.has(key)) return [];
          const { text, value } = write;
          return [[key, { state: "changed", text, value, now: now.get(key) ?? null }] as const];
        }),
      ]);
      setTimeout(
        () =>
          setMarks((before) => {
            const next = new Map(before);
            for (const write of saved) if (next.get(keyOf(write))?.state === "saved") next.delete(keyOf(write));
            return next;
          }),
        savedShownFor,
      );
    } catch (error) {
      const sentence = (error as Error).message;
      mark(writes.map((write) => [keyOf(write), { state: "failed", text: write.text, sentence }]));
    }
  };

  /** Writes texts into cells: what does not fit stays in its cell, marked and unsaved. */
  const write = async (writes: readonly Write[]): Promise<void> => {
    const parsed = writes.map((one) => ({ ...one, parsed: parseCell(one.column, one.text) }));
    mark(
      parsed.map(({ row, column, text, parsed: result }) => [
        markKey(row.id, column.key),
        "misfit" in result ? { state: "invalid", text, sentence: result.misfit } : null,
      ]),
    );
    const good = parsed.flatMap(({ parsed: result, ...one }) => {
      if ("misfit" in result) return [];
      const before = cellValue(one.row, one.column);
      return sameValue(before, result.value) ? [] : [{ ...one, value: result.value, before }];
    });
    for (let at = 0; at < good.length; at += atOnce) await send(good.slice(at, at + atOnce));
  };

  return {
    marks,
    write,
    /** Forgets what was typed into a cell. */
    drop: (row: LedgerRow, column: LedgerColumn) => mark([[markKey(row.id, column.key), null]]),
  };
}
export type Cells = ReturnType<typeof useCells>;
