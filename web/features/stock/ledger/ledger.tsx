"use client";
import { cellText } from "@larder/core/ledger/cell-text";
import { columnTitle, type LedgerColumn } from "@larder/core/ledger/column";
import { printSelection } from "@larder/core/selection/print";
import { parseSelection } from "@larder/core/selection/parse";
import { allOf, type SelectionTree } from "@larder/core/selection/tree";
import type { AttributeSchema } from "@larder/core/model/attribute-schema";
import type { ActOutcome } from "@larder/server/services/acts";
import { getCoreRowModel, useReactTable } from "@tanstack/react-table";
import { useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import Link from "next/link";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from "react";
import { toast } from "sonner";
import { AttributeDialog } from "@/features/attributes/attribute-dialog";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { PickFile } from "@/ui/pick-file";
import { Empty, Loading, Trouble } from "@/ui/states";
import { count } from "@/ui/words";
import { Thumbnail } from "../cells/thumbnail";
import type { StockSelection } from "../use-selection";
import { CellContent, shownText } from "./cell";
import { CellEditor, type Leave } from "./cell-editor";
import { LedgerHeader } from "./header";
import { at, blockOf, holdsPlace, moved, tabbed, type Range } from "./range";
import { RenameDialog } from "./rename-dialog";
import { TableDialog } from "./table-dialog";
import { markKey, useCells, type CellMark } from "./use-cells";
import { useBlocks } from "./use-blocks";
import { useColumns } from "./use-columns";
import { useRows } from "./use-rows";

const rowHeight = 40;
const nameWidth = 250;
const usualWidth = 150;
const noRows: unknown[] = [];

type Asked =
  | { kind: "add" }
  | { kind: "change" | "rename"; column: Extract<LedgerColumn, { kind: "attribute" }> }
  | { kind: "table"; file: File };

/** The condition that something is unset in one of some columns. */
function stillToFill(where: string, columns: readonly LedgerColumn[]): string {
  const field = (column: LedgerColumn) =>
    column.kind === "classes" ? "class" : column.kind === "tags" ? "tag" : columnTitle(column);
  const unset = columns.map((column): SelectionTree => ({
    kind: "known",
    field: { name: field(column), attribute: column.kind === "attribute" },
    set: false,
  }));
  const some: SelectionTree = unset.length === 1 ? (unset[0] as SelectionTree) : { kind: "or", parts: unset };
  return printSelection(allOf([parseSelection(where), some]));
}

/** What is said of whole images, as a table to type in. */
export function Ledger({
  collection,
  matching,
  stock,
  head,
}: {
  collection: number;
  matching: number;
  stock: StockSelection;
  head: ReactNode;
}) {
  const client = useQueryClient();
  const { columns, error: columnsError, widths, keep } = useColumns(collection);
  const [fill, setFill] = useState<string | null>(null);
  const [fillCount, setFillCount] = useState(0);
  const listQuery = useMemo(() => {
    if (fill === null) return stock.listQuery;
    const parameters = new URLSearchParams(stock.listQuery);
    parameters.set("where", fill);
    return parameters.toString();
  }, [fill, stock.listQuery]);
  useEffect(() => setFill(null), [stock.query]);

  const scroller = useRef<HTMLDivElement>(null);
  const [visible, setVisible] = useState({ from: 0, to: 40 });
  const rows = useRows(collection, listQuery, fill === null ? matching : fillCount, visible.from, visible.to);
  const { total, rowAt } = rows;
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 8,
    onChange: (instance) => {
      const items = instance.getVirtualItems();
      const next = { from: items[0]?.index ?? 0, to: items.at(-1)?.index ?? 0 };
      setVisible((before) => (before.from === next.from && before.to === next.to ? before : next));
    },
  });
  const cells = useCells(collection, rows.put);

  const table = useReactTable({
    data: noRows,
    columns: (columns ?? []).map(({ key }) => ({ id: key, size: widths[key] ?? usualWidth, minSize: 60 })),
    getCoreRowModel: getCoreRowModel(),
    columnResizeMode: "onEnd",
    state: { columnSizing: widths },
    onColumnSizingChange: (change) => keep({ widths: typeof change === "function" ? change(widths) : change }),
  });
  const headers = new Map((table.getHeaderGroups()[0]?.headers ?? []).map((header) => [header.column.id, header]));
  const widthOf = (column: LedgerColumn) => headers.get(column.key)?.getSize() ?? usualWidth;

  const [range, setRange] = useState<Range>(at(0, 0));
  const [editing, setEditing] = useState<{ text: string; typed: boolean } | null>(null);
  const [asked, setAsked] = useState<Asked | null>(null);
  const size = { rows: total, columns: columns?.length ?? 0 };
  const { active } = range;
  const block = blockOf(range);
  const activeRow = rowAt(active.row) ?? null;
  const activeColumn = columns?.[active.column];
  const activeMark = activeRow && activeColumn ? cells.marks.get(markKey(activeRow.id, activeColumn.key)) : undefined;
  const go = (next: Range) => {
    setRange(next);
    virtual.scrollToIndex(next.active.row);
    const left = (columns ?? []).slice(0, next.active.column).reduce((sum, column) => sum + widthOf(column), 0);
    const column = columns?.[next.active.column];
    const element = scroller.current;
    if (!element || !column) return;
    if (left < element.scrollLeft) element.scrollLeft = left;
    const right = left + widthOf(column) + nameWidth - element.clientWidth;
    if (right > element.scrollLeft) element.scrollLeft = right;
  };
  const step = (by: Leave, extend = false) => go(moved(range, by, size, extend));

  const begin = (typed: string | null) => {
    if (!activeColumn) return;
    // Typing need not wait for the row; a row that is gone cannot be typed into.
    if (typed !== null && rowAt(active.row) !== null) setEditing({ text: typed, typed: true });
    else if (typed === null && activeRow)
      setEditing({ text: shownText(activeRow, activeColumn, activeMark), typed: false });
  };
  const finish = (text: string, leave: Leave | null) => {
    setEditing(null);
    void write(active.row, active.column, text);
    scroller.current?.focus({ preventScroll: true });
    if (!leave) return;
    if (leave.columns !== 0) {
      const next = tabbed(range, leave.columns < 0, size);
      if (next) go(next);
    } else step(leave);
  };

  const { write, paste, copy, clear, fillDown } = useBlocks({
    columns: columns ?? [],
    rows,
    cells,
    size,
    block,
    setRange,
  });

  const onKey = (event: KeyboardEvent) => {
    if (editing || event.target !== scroller.current) return;
    const command = event.ctrlKey || event.metaKey;
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 400) / rowHeight) - 2);
    const moves: Record<string, Leave> = {
      ArrowDown: { rows: command ? size.rows : 1, columns: 0 },
      ArrowUp: { rows: command ? -size.rows : -1, columns: 0 },
      ArrowRight: { rows: 0, columns: command ? size.columns : 1 },
      ArrowLeft: { rows: 0, columns: command ? -size.columns : -1 },
      PageDown: { rows: page, columns: 0 },
      PageUp: { rows: -page, columns: 0 },
      Home: { rows: command ? -size.rows : 0, columns: -size.columns },
      End: { rows: command ? size.rows : 0, columns: size.columns },
    };
    const move = moves[event.key];
    if (move) {
      event.preventDefault();
      step(move, event.shiftKey);
    } else if (event.key === "Tab") {
      // At either end the keyboard leaves the ledger.
      const next = tabbed(range, event.shiftKey, size);
      if (!next) return;
      event.preventDefault();
      go(next);
    } else if (event.key === "Enter") {
      event.preventDefault();
      step({ rows: event.shiftKey ? -1 : 1, columns: 0 });
    } else if (event.key === "F2") {
      event.preventDefault();
      begin(null);
    } else if (event.key === "Escape") {
      if (activeRow && activeColumn && activeMark) cells.drop(activeRow, activeColumn);
      setRange(at(active.row, active.column));
    } else if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      void clear();
    } else if (command && event.key.toLowerCase() === "d") {
      event.preventDefault();
      void fillDown();
    } else if (event.key.length === 1 && !command && !event.altKey) {
      event.preventDefault();
      begin(event.key);
    }
  };

  const changeColumn = async (body: unknown): Promise<boolean> => {
    try {
      const outcome = await api<ActOutcome | null>(`/api/collections/${collection}/ledger/columns`, {
        method: "POST",
        body,
      });
      await client.invalidateQueries({ queryKey: ["ledger-columns", collection] });
      await client.invalidateQueries({ queryKey: ["ledger", collection] });
      if (outcome) toast(`${outcome.text.charAt(0).toUpperCase()}${outcome.text.slice(1)}.`);
      return true;
    } catch (problem) {
      toast.error((problem as Error).message);
      return false;
    }
  };

  if (columnsError) return <Trouble error={columnsError} again={() => undefined} />;
  if (rows.error) return <Trouble error={rows.error} again={rows.again} />;
  const taken = (columns ?? []).map(columnTitle);
  const toggleFill = async () => {
    if (fill !== null) return setFill(null);
    const wanted = (columns ?? []).filter((column) => column.kind === "attribute");
    const next = stillToFill(stock.where, wanted.length > 0 ? wanted : (columns ?? []));
    try {
      const query = new URLSearchParams(stock.query);
      query.set("where", next);
      const { matching: left } = await api<{ matching: number }>(
        `/api/collections/${collection}/stock/facets?${query.toString()}`,
      );
      setFillCount(left);
      setFill(next);
      go(at(0, 0));
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <>
      <div className="flex items-center gap-3 px-5 pb-2.5">
        {head}
        <PickFile
          label="A table to load"
          accept=".csv,.tsv,.txt,text/csv"
          onPick={(file) => setAsked({ kind: "table", file })}
        >
          Load a table
        </PickFile>
        <Button small asChild>
          <a href={`/api/collections/${collection}/ledger/file?${stock.query}`} download>
            Save as table
          </a>
        </Button>
        <Button small aria-pressed={fill !== null} onClick={() => void toggleFill()}>
          {fill === null ? "Only rows still to fill" : `All rows again (${count(total, "row")} to fill)`}
        </Button>
        <Button small onClick={() => setAsked({ kind: "add" })}>
          New column
        </Button>
      </div>
      {!columns || !rows.ready ? <Loading what="the ledger" /> : null}
      {columns && rows.ready && total === 0 ? (
        <Empty title={fill === null ? "No row" : "Nothing left to fill"}>
          {fill === null ? "No image matches." : "Every image that matches has a value in each column of its own."}
        </Empty>
      ) : null}
      {columns && total > 0 ? (
        <div className="flex gap-4 px-5">
          <div className="min-w-0 flex-1">
            <div
              ref={scroller}
              role="grid"
              tabIndex={0}
              aria-label="Ledger"
              aria-rowcount={total + 1}
              aria-colcount={columns.length + 1}
              aria-multiselectable="true"
              aria-activedescendant={editing ? undefined : `cell-${active.row}-${active.column}`}
              onKeyDown={onKey}
              onPaste={(event) => editing === null && void paste(event)}
              onCopy={(event) => editing === null && copy(event, false)}
              onCut={(event) => editing === null && copy(event, true)}
              className="relative h-[max(320px,calc(100vh-430px))] overflow-auto border border-rule-strong bg-sheet outline-offset-2"
            >
              <LedgerHeader
                columns={columns}
                headers={headers}
                nameWidth={nameWidth}
                onOrder={(order) => keep({ order })}
                onAct={(column, act) => {
                  if (column.kind !== "attribute") return;
                  if (act === "drop") void changeColumn({ do: "drop", name: column.name });
                  else setAsked({ kind: act, column });
                }}
              />
              <div className="relative" style={{ height: virtual.getTotalSize() }}>
                {virtual.getVirtualItems().map(({ index, start }) => {
                  const row = rowAt(index);
                  return (
                    <div
                      key={index}
                      role="row"
                      aria-rowindex={index + 2}
                      className="absolute left-0 flex w-max min-w-full border-b border-rule"
                      style={{ top: start, height: rowHeight }}
                    >
                      <div
                        role="rowheader"
                        className="sticky left-0 z-[5] flex shrink-0 items-center gap-2 border-r border-rule-strong bg-sheet px-2"
                        style={{ width: nameWidth }}
                      >
                        {row ? (
                          <>
                            <Thumbnail image={row.id} className="h-8 w-11 shrink-0 rounded-sm bg-well bg-cover" />
                            <span className="min-w-0 flex-1 truncate text-small" title={row.name}>
                              {row.name.slice(row.name.lastIndexOf("/") + 1)}
                            </span>
                          </>
                        ) : (
                          <span className="text-ink-3">{row === null ? "not in stock any more" : "…"}</span>
                        )}
                      </div>
                      {columns.map((column, place) => {
                        const isActive = index === active.row && place === active.column;
                        const meant = holdsPlace(block, index, place);
                        return (
                          <div
                            key={column.key}
                            id={`cell-${index}-${place}`}
                            role="gridcell"
                            aria-colindex={place + 2}
                            aria-selected={meant}
                            className={`relative shrink-0 cursor-cell border-r border-rule px-2 leading-[39px] ${meant ? "bg-act/8" : ""} ${
                              isActive ? "outline-2 -outline-offset-2 outline-act outline-solid" : ""
                            }`}
                            style={{ width: widthOf(column) }}
                            onPointerDown={(event) => {
                              if (isActive && editing) return;
                              event.preventDefault();
                              scroller.current?.focus({ preventScroll: true });
                              const place_ = { row: index, column: place };
                              setRange(
                                event.shiftKey ? { ...range, active: place_ } : { active: place_, anchor: place_ },
                              );
                            }}
                            onPointerEnter={(event) => {
                              if (event.buttons === 1 && !editing)
                                setRange((before) => ({ ...before, active: { row: index, column: place } }));
                            }}
                            onDoubleClick={() => begin(null)}
                          >
                            {isActive && editing && row !== null ? (
                              <CellEditor
                                column={column}
                                start={editing}
                                onDone={finish}
                                onCancel={() => {
                                  setEditing(null);
                                  scroller.current?.focus({ preventScroll: true });
                                }}
                              />
                            ) : row ? (
                              <CellContent
                                row={row}
                                column={column}
                                mark={cells.marks.get(markKey(row.id, column.key))}
                              />
                            ) : null}
                          </div>
                        );
                      })}
                    </div>
                  );
                })}
              </div>
            </div>
            <CellWords
              mark={activeMark}
              range={block}
              onTheirs={() => activeRow && activeColumn && cells.drop(activeRow, activeColumn)}
              onMine={() =>
                activeRow &&
                activeColumn &&
                activeMark &&
                "text" in activeMark &&
                void cells.write([{ row: activeRow, column: activeColumn, text: activeMark.text }])
              }
            />
          </div>
          <aside aria-label="The picture of the row" className="w-[300px] shrink-0">
            {activeRow ? (
              <>
                <img
                  src={`/api/images/${activeRow.id}/thumbnail`}
                  alt=""
                  className="max-h-[320px] w-full rounded-sm bg-dim object-contain"
                />
                <p className="mt-2 text-small break-all text-ink-2">{activeRow.name}</p>
                <Link href={`/c/${collection}/stock/${activeRow.id}?${stock.address}`} className="text-act underline">
                  Open the picture
                </Link>
              </>
            ) : null}
          </aside>
        </div>
      ) : null}
      {asked?.kind === "add" || asked?.kind === "change" ? (
        <AttributeDialog
          what="column"
          former={
            asked.kind === "add"
              ? null
              : (asked.column.schema ??
                ({ name: asked.column.name, kind: "text", required: false, help: "" } satisfies AttributeSchema))
          }
          taken={asked.kind === "add" ? taken : taken.filter((name) => name !== asked.column.name)}
          onClose={() => setAsked(null)}
          onSave={(attribute) =>
            void changeColumn({ do: asked.kind === "add" ? "add" : "set", attribute }).then(
              (done) => done && setAsked(null),
            )
          }
        />
      ) : null}
      {asked?.kind === "rename" ? (
        <RenameDialog
          name={asked.column.name}
          taken={taken}
          onClose={() => setAsked(null)}
          onRename={(to) =>
            void changeColumn({ do: "rename", from: asked.column.name, to }).then((done) => done && setAsked(null))
          }
        />
      ) : null}
      {asked?.kind === "table" ? (
        <TableDialog
          collection={collection}
          file={asked.file}
          onClose={() => setAsked(null)}
          onWritten={({ changes, images }) => {
            setAsked(null);
            toast(`Wrote ${count(changes, "cell")} of ${count(images, "image")}.`);
            void client.invalidateQueries({ queryKey: ["ledger", collection] });
            void client.invalidateQueries({ queryKey: ["ledger-columns", collection] });
          }}
        />
      ) : null}
    </>
  );
}

/** What is to be said of the cell that the keyboard is at, and how far a block reaches. */
function CellWords({
  mark,
  range,
  onTheirs,
  onMine,
}: {
  mark: CellMark | undefined;
  range: { top: number; left: number; bottom: number; right: number };
  onTheirs: () => void;
  onMine: () => void;
}) {
  const [height, width] = [range.bottom - range.top + 1, range.right - range.left + 1];
  return (
    <p aria-live="polite" className="flex min-h-8 items-center gap-2 pt-1 text-small text-ink-2">
      {mark?.state === "changed" ? (
        <>
          <span className="font-medium text-look">
            Somebody changed this meanwhile: it says {mark.now === null ? "nothing" : cellText(mark.now)} now.
          </span>
          <Button small onClick={onTheirs}>
            Leave it at that
          </Button>
          <Button small onClick={onMine}>
            Write mine
          </Button>
        </>
      ) : mark?.state === "invalid" || mark?.state === "failed" ? (
        <span className="text-harm">Not saved: {mark.sentence}</span>
      ) : height * width > 1 ? (
        `${count(height, "row")} × ${count(width, "column")}`
      ) : (
        "Type to fill a cell in, F2 to change it, Ctrl D to fill down; copy and paste work with spreadsheets."
      )}
    </p>
  );
}
