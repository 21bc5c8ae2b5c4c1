"use client";
import type { LabelRequest } from "@larder/core/labels/request";
import { useDroppable } from "@dnd-kit/core";
import { splitNames } from "@larder/core/model/item";
import type { ReactNode } from "react";
import { SplitMark } from "@/ui/marks";
import type { Looks } from "./cell";

/** More classes or tags than this find no room: the tray has them all. */
const mostShown = 14;

/** What dropping onto a place does, carried by it. */
export type Drop = { request: LabelRequest };

function Place({ id, request, children }: { id: string; request: LabelRequest; children: ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id, data: { request } satisfies Drop });
  return (
    <span
      ref={setNodeRef}
      className={`inline-flex items-center gap-1.5 rounded-sm border px-2.5 py-1.5 ${
        isOver ? "border-act bg-act text-act-ink" : "border-rule-strong bg-sheet"
      }`}
    >
      {children}
    </span>
  );
}

/** Where pictures that are dragged can be dropped: splits, classes, tags. Stands at the top while something is dragged. */
export function DropBar({ looks, tags }: { looks: Looks; tags: readonly string[] }) {
  return (
    <div
      aria-hidden="true"
      className="fixed inset-x-0 top-[95px] z-30 flex flex-wrap items-center gap-1.5 border-b border-rule-strong bg-ground px-5 py-2.5"
    >
      <span className="text-ink-3">Move to</span>
      {splitNames.map((split) => (
        <Place key={split} id={`split ${split}`} request={{ do: "move", split }}>
          <SplitMark split={split} />
        </Place>
      ))}
      <Place id="split none" request={{ do: "move", split: null }}>
        <SplitMark split="none" />
      </Place>
      <span className="ml-3 text-ink-3">Say they are</span>
      {[...looks].slice(0, mostShown).map(([id, { name, colour }]) => (
        <Place key={id} id={`class ${id}`} request={{ do: "add-class", class: id }}>
          <span className="size-2.5 rounded-sm" style={{ background: colour }} />
          <span className="max-w-40 truncate">{name}</span>
        </Place>
      ))}
      {tags.length > 0 ? <span className="ml-3 text-ink-3">Tag</span> : null}
      {tags.slice(0, mostShown).map((tag) => (
        <Place key={tag} id={`tag ${tag}`} request={{ do: "tag", tag }}>
          <span className="max-w-40 truncate">{tag}</span>
        </Place>
      ))}
    </div>
  );
}
