"use client";
import { completed } from "@larder/core/ledger/cell-text";
import { choicesOf, columnTitle, holdsList, type LedgerColumn } from "@larder/core/ledger/column";
import { useLayoutEffect, useRef, useState } from "react";

/** Where the ledger goes once a cell is done with. */
export type Leave = { rows: number; columns: number };

const mostHints = 6;

/** A text as it stands in the field; `selected` is what is to be selected of it, null where that is the browser's. */
type Draft = { text: string; selected: [number, number] | null };

const plain = (text: string): Draft => ({ text, selected: [text.length, text.length] });

/** A text that was typed, with what it is completed to. */
function typedDraft(column: LedgerColumn, typed: string): Draft {
  const whole = completed(column, typed);
  return whole === null ? plain(typed) : { text: whole, selected: [typed.length, whole.length] };
}

/** A cell while it is typed into; what is typed is completed to the first choice that begins with it. */
export function CellEditor({
  column,
  start,
  onDone,
  onCancel,
}: {
  column: LedgerColumn;
  /** What stands in it at first; typing began with it where `typed`. */
  start: { text: string; typed: boolean };
  onDone: (text: string, leave: Leave | null) => void;
  onCancel: () => void;
}) {
  const field = useRef<HTMLTextAreaElement>(null);
  const [draft, setDraft] = useState<Draft>(() => (start.typed ? typedDraft(column, start.text) : plain(start.text)));
  const { text } = draft;
  const ended = useRef(false);
  const finish = (leave: Leave | null) => {
    if (ended.current) return;
    ended.current = true;
    onDone(text, leave);
  };
  useLayoutEffect(() => field.current?.focus(), []);
  // What was completed is selected, so that going on typing replaces it; also where the text stays the same by that.
  useLayoutEffect(() => {
    if (draft.selected) field.current?.setSelectionRange(...draft.selected);
  }, [draft]);
  const from = holdsList(column) ? text.lastIndexOf(";") + 1 : 0;
  const word = text.slice(from).trim().toLowerCase();
  const hints = choicesOf(column)
    .filter((choice) => choice.toLowerCase().includes(word) && choice.toLowerCase() !== word)
    .slice(0, mostHints);
  return (
    <div className="absolute -inset-px z-20">
      <textarea
        ref={field}
        rows={1}
        aria-label={columnTitle(column)}
        value={text}
        onChange={(event) => {
          const { inputType, isComposing } = event.nativeEvent as InputEvent;
          const atEnd = event.target.selectionStart === event.target.value.length;
          if (inputType.startsWith("insert") && !isComposing && atEnd) setDraft(typedDraft(column, event.target.value));
          else setDraft({ text: event.target.value, selected: null });
        }}
        onBlur={() => finish(null)}
        onKeyDown={(event) => {
          event.stopPropagation();
          const leave: Record<string, Leave> = {
            Enter: { rows: event.shiftKey ? -1 : 1, columns: 0 },
            Tab: { rows: 0, columns: event.shiftKey ? -1 : 1 },
            ArrowDown: { rows: 1, columns: 0 },
            ArrowUp: { rows: -1, columns: 0 },
          };
          if (event.key === "Escape") {
            ended.current = true;
            onCancel();
          } else if (event.key === "Enter" && event.altKey) {
            event.preventDefault();
            setDraft(plain(`${text}\n`));
          } else if (leave[event.key]) {
            event.preventDefault();
            finish(leave[event.key] ?? null);
          }
        }}
        className="block h-full w-full resize-none border-2 border-act bg-sheet px-1.5 py-[9px] leading-[20px] outline-none"
      />
      {hints.length > 0 ? (
        <ul className="absolute top-full left-0 min-w-full rounded-b-md border border-rule-strong bg-sheet py-1 text-small">
          {hints.map((hint) => (
            <li
              key={hint}
              className="cursor-pointer px-2 py-0.5 hover:bg-well"
              onPointerDown={(event) => {
                event.preventDefault();
                setDraft(plain(text.slice(0, from) + (from > 0 ? " " : "") + hint));
              }}
            >
              {hint}
            </li>
          ))}
        </ul>
      ) : null}
    </div>
  );
}
