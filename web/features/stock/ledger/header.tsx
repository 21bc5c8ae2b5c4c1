"use client";
import { columnTitle, type LedgerColumn } from "@larder/core/ledger/column";
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import type { Header } from "@tanstack/react-table";
import { ChevronDown } from "lucide-react";
import { dragWords } from "@/ui/drag-words";
import { Menu, MenuItem, MenuRule } from "@/ui/menu";

export type ColumnAct = "rename" | "change" | "drop" | "left" | "right";

function HeaderCell({
  column,
  header,
  place,
  last,
  onAct,
}: {
  column: LedgerColumn;
  header: Header<unknown, unknown>;
  place: number;
  last: boolean;
  onAct: (act: ColumnAct) => void;
}) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: column.key });
  const title = columnTitle(column);
  const own = column.kind === "attribute";
  return (
    <div
      ref={setNodeRef}
      role="columnheader"
      aria-colindex={place + 2}
      className="relative flex h-8 shrink-0 items-center border-r border-rule-strong bg-well"
      style={{ width: header.getSize(), transform: CSS.Translate.toString(transform), transition }}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        role={undefined}
        aria-roledescription={undefined}
        title={`${title}: drag it to another place`}
        className="min-w-0 flex-1 cursor-grab truncate px-2 text-left font-semibold"
      >
        {title}
      </button>
      <Menu
        trigger={
          <button type="button" aria-label={`More for ${title}`} className="mr-1.5 text-ink-3 hover:text-ink">
            <ChevronDown size={14} />
          </button>
        }
      >
        {place > 0 ? <MenuItem onSelect={() => onAct("left")}>Move to the left</MenuItem> : null}
        {last ? null : <MenuItem onSelect={() => onAct("right")}>Move to the right</MenuItem>}
        {own ? (
          <>
            <MenuRule />
            <MenuItem onSelect={() => onAct("rename")}>Rename</MenuItem>
            <MenuItem onSelect={() => onAct("change")}>What its cells may hold</MenuItem>
            {column.schema ? <MenuItem onSelect={() => onAct("drop")}>Let its cells hold anything</MenuItem> : null}
          </>
        ) : null}
      </Menu>
      <span
        aria-hidden="true"
        onPointerDown={header.getResizeHandler()}
        className="absolute inset-y-0 -right-1 z-10 w-2 cursor-col-resize touch-none hover:bg-act/40"
      />
    </div>
  );
}

/** The heads of the columns: dragged to another place, made wider, or changed by their menus. */
export function LedgerHeader({
  columns,
  headers,
  nameWidth,
  onOrder,
  onAct,
}: {
  columns: readonly LedgerColumn[];
  headers: ReadonlyMap<string, Header<unknown, unknown>>;
  nameWidth: number;
  onOrder: (keys: string[]) => void;
  onAct: (column: LedgerColumn, act: Exclude<ColumnAct, "left" | "right">) => void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const keys = columns.map(({ key }) => key as string);
  const move = (from: number, to: number) => onOrder(arrayMove(keys, from, to));
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over && over.id !== active.id) move(keys.indexOf(String(active.id)), keys.indexOf(String(over.id)));
  };
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="sticky top-0 z-10 flex w-max min-w-full border-b border-rule-strong bg-well"
    >
      <div
        role="columnheader"
        aria-colindex={1}
        className="sticky left-0 z-20 flex h-8 shrink-0 items-center border-r border-rule-strong bg-well px-2 font-semibold"
        style={{ width: nameWidth }}
      >
        picture
      </div>
      <DndContext
        id="ledger-columns"
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={onDragEnd}
        // What is said to those who do not see it has no place within a row.
        accessibility={{
          announcements: dragWords((id) =>
            columnTitle(columns.find(({ key }) => key === id) ?? { key: "caption", kind: "caption" }),
          ),
          ...(typeof document === "undefined" ? {} : { container: document.body }),
        }}
      >
        <SortableContext items={keys} strategy={horizontalListSortingStrategy}>
          {columns.map((column, place) => {
            const header = headers.get(column.key);
            return header ? (
              <HeaderCell
                key={column.key}
                column={column}
                header={header}
                place={place}
                last={place === columns.length - 1}
                onAct={(act) =>
                  act === "left"
                    ? move(place, place - 1)
                    : act === "right"
                      ? move(place, place + 1)
                      : onAct(column, act)
                }
              />
            ) : null;
          })}
        </SortableContext>
      </DndContext>
    </div>
  );
}
