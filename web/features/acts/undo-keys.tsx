"use client";
import { usePathname } from "next/navigation";
import { useEffect } from "react";
import { useActs } from "./use-acts";

/** Ctrl or ⌘ Z undoes what one did last in this collection, with Shift it is done again; not while typing. */
export function UndoKeys({ collection }: { collection: number }) {
  const { undoLast } = useActs(collection);
  // A plan takes back its own changes.
  const elsewhere = usePathname().startsWith(`/c/${collection}/plans/`);
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
