"use client";
import { usePathname } from "next/navigation";
import { useEffect } from "react";
import { useActs } from "./use-acts";

/** Ctrl or ⌘ Z undoes what one did last in this collection, with Shift it is done again; not while typing. */
export function UndoKeys({ collection }: { collection: number }) {
  const { undoLast } = useActs(collection);
  const path = usePathname();
  // A plan, and the bench, take back their own changes.
  const elsewhere = ["plans", "bench"].some((place) => path.startsWith(`/c/${collection}/${place}/`));
  useEffect(() => {
    if (elsewhere) return;
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement | null;
      const typing = target?.closest(
        "input:not([type=range]), textarea, select, [contenteditable=true], [role=dialog]",
      );
      if (typing || event.key.toLowerCase() !== "z" || !(event.ctrlKey || event.metaKey)) return;
      event.preventDefault();
      void undoLast(event.shiftKey);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [undoLast, elsewhere]);
  return null;
}
