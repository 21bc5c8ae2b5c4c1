"use client";
import { useEffect, useRef, useState, type KeyboardEvent, type RefObject } from "react";

/**
 * One stop of the keyboard for a grid of cells, each a button with `data-index`: arrows, Home, End and the page keys move
 * within it. Cells far away are drawn only when they are scrolled to, and get the keyboard then.
 */
export function useCellKeys(
  ground: RefObject<HTMLDivElement | null>,
  { total, columns, pitch }: { total: number; columns: number; pitch: number },
  scrollToRow: (row: number) => void,
) {
  const [current, setCurrent] = useState(0);
  const wanted = useRef<number | null>(null);
  const takeFocus = () => {
    const cell = ground.current?.querySelector<HTMLElement>(`[data-index="${wanted.current}"]`);
    if (wanted.current === null || !cell) return;
    wanted.current = null;
    cell.focus({ preventScroll: true });
  };
  useEffect(takeFocus);
  /** Brings the cell into view and the keyboard to it. */
  const goTo = (next: number) => {
    setCurrent(next);
    scrollToRow(Math.floor(next / columns));
    wanted.current = next;
    takeFocus();
  };
  /** Moves by a key; from where to where it went, or null for any other key. */
  const moveBy = (event: KeyboardEvent): { from: number; to: number } | null => {
    const from = Number((event.target as HTMLElement).dataset["index"]);
    const page = Math.max(1, Math.floor(window.innerHeight / pitch) - 1) * columns;
    const steps: Record<string, number> = {
      ArrowRight: 1,
      ArrowLeft: -1,
      ArrowDown: columns,
      ArrowUp: -columns,
      PageDown: page,
      PageUp: -page,
      Home: -total,
      End: total,
    };
    const step = steps[event.key];
    if (!Number.isInteger(from) || step === undefined) return null;
    event.preventDefault();
    const to = Math.min(total - 1, Math.max(0, from + step));
    goTo(to);
    return { from, to };
  };
  return { current: Math.min(current, total - 1), setCurrent, goTo, moveBy };
}
