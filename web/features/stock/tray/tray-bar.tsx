"use client";
import type { ReactNode } from "react";

/** The bar at the bottom edge that says of what something will be done, and offers what. */
export function TrayBar({
  label,
  many,
  more,
  onClear,
  children,
}: {
  label: string;
  /** What it is done to: "12 images". */
  many: string;
  more?: ReactNode;
  onClear: () => void;
  children: ReactNode;
}) {
  return (
    <div
      role="toolbar"
      aria-label={label}
      className="rise fixed bottom-3 left-1/2 z-20 flex max-w-[calc(100vw-24px)] -translate-x-1/2 items-center gap-2 rounded-md bg-dim px-4 py-2 whitespace-nowrap text-dim-ink"
    >
      <span className="mr-1">
        What is chosen here is done to <b className="font-title text-[15px] font-semibold">{many}</b>
        {more}:
      </span>
      {children}
      <button type="button" onClick={onClear} className="ml-2 text-dim-ink-2 hover:text-dim-ink">
        Esc
      </button>
    </div>
  );
}
