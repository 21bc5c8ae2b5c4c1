"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useDraggable } from "@dnd-kit/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical } from "lucide-react";
import Link from "next/link";
import { useState } from "react";
import { cutoutAddress } from "./cutout-address";
import { stockLink } from "@/features/stock/link";
import { classFill } from "@/ui/colours";
import { ClassMark } from "@/ui/marks";
import { count, number } from "@/ui/words";
import { ClassMenu } from "./class-menu";
import { KeypointPairs } from "./keypoint-pairs";

export const splits = ["train", "val", "test", "none"] as const;

const shownExamples = 4;

/** What a class is dragged by its name as: to be dropped on the class that it is merged into. */
export const mergeId = (id: number) => `merge ${id}`;

/** The class itself: it leads to its images, and dropped onto another it is merged into that one. */
function ClassName({ row, rows, collection }: { row: ClassRow; rows: readonly ClassRow[]; collection: number }) {
  const { listeners, setNodeRef, transform, isDragging } = useDraggable({ id: mergeId(row.id) });
  const parent = rows.find(({ id }) => id === row.parent);
  return (
    <span
      ref={setNodeRef}
      {...listeners}
      style={{ transform: CSS.Translate.toString(transform) }}
      className={`block max-w-[230px] ${isDragging ? "relative z-20 bg-sheet" : ""}`}
    >
      <Link
        draggable={false}
        href={stockLink(collection, { class: [row.name] })}
        // The end of a drag is no click: it would lead away.
        className={`flex items-center gap-1.5 font-semibold hover:underline ${isDragging ? "pointer-events-none" : ""}`}
      >
        <ClassMark colour={classFill(row.colour)} />
        <span className="truncate" title={row.name}>
          {row.name}
        </span>
      </Link>
      {parent || row.formerly.length > 0 ? (
        <span
          className="block truncate text-small text-ink-3"
          title={row.formerly.length > 0 ? `Also stands for ${row.formerly.join(", ")}` : undefined}
        >
          {[parent ? `under ${parent.name}` : "", row.formerly.length > 0 ? `also ${row.formerly.join(", ")}` : ""]
            .filter(Boolean)
            .join(" · ")}
        </span>
      ) : null}
    </span>
  );
}

/** A class in the table, with what there is of it. */
export function ClassTableRow({
  row,
  rows,
  collection,
  floor,
  share,
  movable,
  onFiles,
}: {
  row: ClassRow;
  rows: readonly ClassRow[];
  collection: number;
  floor: number;
  /** Of the labels of the most common class, and of all. */
  share: { ofMost: number; ofAll: number };
  /** Whether it can be moved to another place in the list. */
  movable: boolean;
  onFiles: (event: Event) => void;
}) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isOver, active } = useSortable(
    {
      id: row.id,
      disabled: { draggable: !movable, droppable: false },
    },
  );
  const [filesOver, setFilesOver] = useState(false);
  const takesIt = isOver && typeof active?.id === "string" && active.id !== mergeId(row.id);
  return (
    <tr
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      onDragOver={(event) => {
        event.preventDefault();
        setFilesOver(true);
      }}
      onDragLeave={() => setFilesOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setFilesOver(false);
        onFiles(event.nativeEvent);
      }}
      className={filesOver || takesIt ? "bg-act-wash" : ""}
    >
      <td className="!pr-0 w-6">
        {movable ? (
          <button
            type="button"
            ref={setActivatorNodeRef}
            {...attributes}
            {...listeners}
            aria-label={`Move ${row.name} to another place`}
            className="cursor-grab text-ink-3 hover:text-ink"
          >
            <GripVertical size={14} aria-hidden="true" />
          </button>
        ) : null}
      </td>
      <td>
        <ClassName row={row} rows={rows} collection={collection} />
      </td>
      <td className="text-[11.5px] font-semibold tracking-wider text-ink-2">{row.code}</td>
      <td>
        {row.examples.length === 0 ? null : (
          <Link
            href={`/c/${collection}/stock?show=cutouts&group=class:${row.id}`}
            aria-label={`Cut-outs of ${row.name}`}
            className="flex gap-0.5"
          >
            {row.examples.slice(0, shownExamples).map((example, n) => (
              <img
                key={n}
                src={cutoutAddress(example)}
                alt=""
                loading="lazy"
                className="size-8 rounded-sm bg-well object-cover"
              />
            ))}
          </Link>
        )}
      </td>
      <td className="number">
        {row.images < floor ? (
          <span className="mr-2 text-small text-look">{number(floor - row.images)} missing</span>
        ) : null}
        {number(row.images)}
      </td>
      <td className="number font-semibold">{number(row.objects)}</td>
      <td>
        <span className="flex items-center gap-2.5">
          <span className="h-[10px] flex-1 bg-well">
            <span
              className="block h-full"
              style={{ width: `${share.ofMost * 100}%`, background: classFill(row.colour) }}
            />
          </span>
          <span className="w-12 text-right text-ink-2">{(share.ofAll * 100).toFixed(1)}%</span>
        </span>
      </td>
      {splits.map((split) => (
        <td key={split} className={`number ${row.bySplit[split] === 0 ? "text-ink-3" : ""}`}>
          {number(row.bySplit[split])}
        </td>
      ))}
      <td className="number">{number(row.deliveries)}</td>
      <td className="text-ink-2">
        {row.attributes.length > 0 ? count(row.attributes.length, "attribute") : null}
        {row.attributes.length > 0 && row.keypoints ? ", " : null}
        {row.keypoints ? <KeypointPairs row={{ ...row, keypoints: row.keypoints }} collection={collection} /> : null}
      </td>
      <td className="number">
        <ClassMenu row={row} rows={rows} collection={collection} />
      </td>
    </tr>
  );
}
