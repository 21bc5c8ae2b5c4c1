"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useState } from "react";
import { useActs } from "@/features/acts/use-acts";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { count } from "@/ui/words";

/** What becomes of what a merged class says beside its name. */
function leftBehind(from: ClassRow, into: ClassRow): string {
  const attributes = from.attributes.filter(({ name }) => !into.attributes.some((other) => other.name === name));
  const words: string[] = [];
  if (attributes.length > 0)
    words.push(
      `What objects say under ${attributes.map(({ name }) => name).join(", ")} stays, though ${into.name} does not declare it.`,
    );
  if (from.keypoints && !into.keypoints) words.push(`Its skeletons stay as they are; ${into.name} names no keypoints.`);
  else if (from.keypoints && into.keypoints && from.keypoints.length !== into.keypoints.length)
    words.push(
      `Its skeletons have ${from.keypoints.length} keypoints, those of ${into.name} ${into.keypoints.length}.`,
    );
  return words.join(" ");
}

/** What merging a class into another does, with its numbers. */
function mergeText(from: ClassRow, into: ClassRow): string {
  const labels = `${count(from.objects, "label")} on ${count(from.images, "image")}`;
  const become = from.objects === 1 ? "becomes" : "become";
  return [
    `${labels} ${become} ${into.name}, which has ${count(into.objects, "label")} by now.`,
    `Later deliveries of ${from.name} go there, too.`,
    leftBehind(from, into),
  ].join(" ");
}

/** Asks into which class one is merged, and says what that does. */
export function MergeDialog({
  row,
  rows,
  collection,
  chosen: first = null,
  onClose,
}: {
  row: ClassRow;
  rows: readonly ClassRow[];
  collection: number;
  /** The class it was dropped on. */
  chosen?: number | null;
  onClose: () => void;
}) {
  const { act } = useActs(collection);
  const [chosen, setChosen] = useState(first === null ? "" : String(first));
  const into = rows.find(({ id }) => id === Number(chosen));
  const merge = async () => {
    if (!into) return;
    onClose();
    await act({ where: "", only: null, except: [] }, { do: "merge", from: row.id, into: into.id });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Merge ${row.name}`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void merge();
        }}
      >
        <SelectField
          label="Into"
          value={chosen}
          options={[
            { value: "", label: "Choose a class" },
            ...rows.filter(({ id }) => id !== row.id).map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
          onChange={setChosen}
        />
        <p aria-live="polite" className="mt-3 min-h-10 text-ink-2">
          {into ? mergeText(row, into) : ""}
        </p>
        <div className="mt-4 flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={!into}>
            {into ? `Merge into ${into.name}` : "Merge"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
