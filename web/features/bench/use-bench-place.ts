"use client";
import type { View } from "@larder/core/editing/view";
import { parseAsArrayOf, parseAsFloat, parseAsString, useQueryStates } from "nuqs";
import { useEffect, useMemo, useRef } from "react";

const parsers = {
  /** What is chosen, by uid. */
  object: parseAsArrayOf(parseAsString).withDefault([]),
  /** Zoom and place of the picture: scale, x, y. */
  view: parseAsArrayOf(parseAsFloat).withDefault([]),
};

/** What is chosen and how the picture lies, kept in the address. */
export function useBenchPlace(image: number) {
  const [{ object, view }, set] = useQueryStates(parsers, {
    history: "replace",
    clearOnDefault: true,
    scroll: false,
    throttleMs: 400,
  });
  const selected = useMemo(() => new Set(object), [object]);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(timer.current), [image]);
  const [scale, x, y] = view;
  return {
    selected,
    setSelected: (uids: readonly string[]) => void set({ object: uids.length > 0 ? [...uids] : null }),
    /** The view that the address asks for; null to show the whole picture. */
    startView: scale !== undefined && x !== undefined && y !== undefined && scale > 0 ? { scale, x, y } : null,
    /** An address is written once the picture has come to rest: while it moves, nothing else may be in its way. */
    keepView: (next: View) => {
      clearTimeout(timer.current);
      const rounded = [next.scale, next.x, next.y].map((value) => Number(value.toFixed(4)));
      timer.current = setTimeout(() => void set({ view: rounded }), 500);
    },
  };
}
