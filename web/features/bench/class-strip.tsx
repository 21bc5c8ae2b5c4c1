"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { classColour } from "@/ui/colours";

/**
 * The classes by how often they were used on this row of images; the one that is drawn next is marked. A code that is
 * being typed shows which are still meant.
 */
export function ClassStrip({
  classes,
  current,
  typed,
  onChoose,
}: {
  classes: readonly ClassRow[];
  current: number | null;
  typed: string;
  onChoose: (id: number) => void;
}) {
  return (
    <div role="radiogroup" aria-label="Class of what is drawn" className="flex min-w-0 flex-1 gap-1 overflow-x-auto">
      {classes.map(({ id, name, code, colour }) => {
        const isMeant = typed === "" || code.toUpperCase().startsWith(typed);
        return (
          <button
            key={id}
            type="button"
            role="radio"
            aria-checked={current === id}
            title={name}
            onClick={() => onChoose(id)}
            className={`flex h-7 max-w-40 shrink-0 items-center gap-1.5 rounded-md border px-2 text-[12px] ${current === id ? "border-dim-ink bg-dim-2" : "border-dim-rule hover:bg-dim-2"} ${isMeant ? "" : "opacity-35"}`}
          >
            <span
              className="size-2.5 shrink-0 rounded-[2px]"
              style={{ background: classColour(colour) }}
              aria-hidden="true"
            />
            <span className="text-[10.5px] font-semibold tracking-wider text-dim-ink-2">{code}</span>
            <span className="truncate">{name}</span>
          </button>
        );
      })}
    </div>
  );
}
