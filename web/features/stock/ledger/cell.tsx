"use client";
import { cellText } from "@larder/core/ledger/cell-text";
import { cellValue, type LedgerColumn, type LedgerRow } from "@larder/core/ledger/column";
import type { CellMark } from "./use-cells";

/** What a cell shows: what was typed while it is not saved, else what the image says. */
export function shownText(row: LedgerRow, column: LedgerColumn, mark: CellMark | undefined): string {
  return mark && mark.state !== "saved" ? mark.text : cellText(cellValue(row, column));
}

const looks: Record<CellMark["state"], string> = {
  saving: "text-ink-2 italic",
  saved: "bg-act/10",
  invalid: "underline decoration-harm decoration-wavy underline-offset-4",
  changed: "bg-look/20",
  failed: "underline decoration-harm decoration-wavy underline-offset-4",
};

const says: Record<CellMark["state"], string> = {
  saving: "being saved",
  saved: "saved",
  invalid: "not saved: it does not fit",
  changed: "not saved: somebody changed it meanwhile",
  failed: "not saved",
};

/** The text of a cell with what is under way with it. */
export function CellContent({
  row,
  column,
  mark,
}: {
  row: LedgerRow;
  column: LedgerColumn;
  mark: CellMark | undefined;
}) {
  const text = shownText(row, column, mark);
  return (
    <>
      {text === "" ? (
        <span className="text-ink-3" aria-label="unset">
          ·
        </span>
      ) : (
        <span className={`block truncate ${mark ? looks[mark.state] : ""}`}>{text}</span>
      )}
      {mark ? <span className="sr-only">, {says[mark.state]}</span> : null}
    </>
  );
}
