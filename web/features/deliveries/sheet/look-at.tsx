"use client";
import type { PreviewItem } from "@larder/server/services/intake/preview";
import { useEffect } from "react";
import { Shapes } from "@/features/shapes/shapes";
import { Button } from "@/ui/button";
import { classColour } from "@/ui/colours";
import { Dialog } from "@/ui/dialog";
import { ClassMark } from "@/ui/marks";
import { count, number } from "@/ui/words";
import type { ClassLook } from "./delivery-row";

export const shapesOf = (
  objects: readonly { class: string; shape: PreviewItem["objects"][number]["shape"] }[],
  look: ClassLook,
) => objects.map((object, key) => ({ key, shape: object.shape, colour: look.get(object.class) ?? classColour(0) }));

function Large({
  src,
  title,
  size,
  objects,
  look,
}: {
  src: string;
  title: string;
  size: { width: number; height: number };
  objects: readonly { class: string; shape: PreviewItem["objects"][number]["shape"] }[];
  look: ClassLook;
}) {
  return (
    <figure className="min-w-0 flex-1">
      <figcaption className="mb-1 font-semibold">
        {title} <span className="font-normal text-ink-3">{count(objects.length, "object")}</span>
      </figcaption>
      <div
        className="relative overflow-hidden rounded-sm bg-dim"
        style={{ aspectRatio: `${size.width} / ${size.height}` }}
      >
        <img src={src} alt="" className="absolute inset-0 size-full" />
        <Shapes width={size.width} height={size.height} shapes={shapesOf(objects, look)} />
      </div>
    </figure>
  );
}

/**
 * One picture larger, with all that is said of it; beside it what stock says of the same bytes, or the picture that is
 * nearly the same.
 */
export function LookAt({
  delivery,
  item,
  place,
  total,
  look,
  onStep,
  onDone,
}: {
  delivery: number;
  item: PreviewItem;
  /** Which of all that are shown it is, from 0. */
  place: number;
  total: number;
  look: ClassLook;
  onStep: (by: number) => void;
  onDone: () => void;
}) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === "ArrowLeft" && place > 0) onStep(-1);
      if (event.key === "ArrowRight" && place + 1 < total) onStep(1);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [place, total, onStep]);
  const size = item.size ?? { width: 4, height: 3 };
  const src = `/api/deliveries/${delivery}/items/${item.ordinal}`;
  // Of the very same bytes there is no more to compare.
  const near = item.there ? null : item.near;
  const words = new Map<string, number>();
  for (const object of item.objects) words.set(object.class, (words.get(object.class) ?? 0) + 1);
  return (
    <Dialog wide open onOpenChange={(open) => !open && onDone()} title={item.path.split("/").at(-1) ?? item.path}>
      <div className="flex gap-4">
        <Large
          src={src}
          title={item.there || near ? "This picture" : item.state}
          size={size}
          objects={item.objects}
          look={look}
        />
        {item.there ? (
          <Large
            src={src}
            title={`In stock: ${item.there.state}`}
            size={size}
            objects={item.there.objects}
            look={look}
          />
        ) : null}
        {near ? (
          <Large
            src={
              "image" in near
                ? `/api/images/${near.image}/picture`
                : `/api/deliveries/${delivery}/items/${near.ordinal}`
            }
            title={`Nearly the same, ${"image" in near ? "in stock" : "in this delivery"}`}
            size={near.size ?? size}
            objects={near.objects}
            look={look}
          />
        ) : null}
      </div>
      <dl className="mt-3 grid grid-cols-[92px_1fr] gap-x-2 gap-y-1">
        <dt className="text-ink-3">Path</dt>
        <dd className="truncate font-mono text-small">{item.path}</dd>
        {near ? (
          <>
            <dt className="text-ink-3">Beside it</dt>
            <dd className="truncate font-mono text-small">{near.name}</dd>
          </>
        ) : null}
        <dt className="text-ink-3">Size</dt>
        <dd>{item.size ? `${number(item.size.width)} × ${number(item.size.height)}` : "not read yet"}</dd>
        <dt className="text-ink-3">Objects</dt>
        <dd className="flex flex-wrap gap-x-3">
          {[...words].map(([name, n]) => (
            <span key={name} className="flex items-center gap-1.5">
              <ClassMark colour={look.get(name) ?? classColour(0)} />
              {number(n)} {name}
            </span>
          ))}
          {words.size === 0 ? "none" : null}
        </dd>
        {item.classes.length > 0 ? (
          <>
            <dt className="text-ink-3">Classes</dt>
            <dd>{item.classes.join(", ")}</dd>
          </>
        ) : null}
        {item.takenAt ? (
          <>
            <dt className="text-ink-3">Taken</dt>
            <dd>{item.takenAt.replace("T", " ")}</dd>
          </>
        ) : null}
        {item.place ? (
          <>
            <dt className="text-ink-3">Place</dt>
            <dd>{item.place.map((degrees) => degrees.toFixed(5)).join(", ")}</dd>
          </>
        ) : null}
      </dl>
      <div className="mt-4 flex items-center gap-2">
        <Button small disabled={place === 0} onClick={() => onStep(-1)}>
          Before
        </Button>
        <Button small disabled={place + 1 >= total} onClick={() => onStep(1)}>
          Next
        </Button>
        <span className="text-small text-ink-3">
          {number(place + 1)} of {number(total)}
        </span>
      </div>
    </Dialog>
  );
}
