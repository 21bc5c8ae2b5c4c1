"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useState } from "react";
import { useActs } from "@/features/acts/use-acts";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField } from "@/ui/field";
import { count } from "@/ui/words";

const everything = { where: "", only: null, except: [] };

/** Takes a class away; where it has labels, asks what becomes of them. */
export function DropDialog({
  row,
  rows,
  collection,
  onClose,
}: {
  row: ClassRow;
  rows: readonly ClassRow[];
  collection: number;
  onClose: () => void;
}) {
  const { act } = useActs(collection);
  const [into, setInto] = useState("");
  const heir = rows.find(({ id }) => id === Number(into));
  const labels = `${count(row.objects, "label")} on ${count(row.images, "image")}`;
  const drop = async () => {
    onClose();
    await act(everything, heir ? { do: "merge", from: row.id, into: heir.id } : { do: "drop-class", class: row.id });
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Remove the class ${row.name}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void drop();
        }}
      >
        {row.objects === 0 ? (
          <p>Nothing in stock has it.</p>
        ) : (
          <>
            <SelectField
              label={`What becomes of its ${labels}`}
              value={into}
              options={[
                { value: "", label: "They are removed" },
                ...rows
                  .filter(({ id }) => id !== row.id)
                  .map(({ id, name }) => ({ value: String(id), label: `They become ${name}` })),
              ]}
              onChange={setInto}
            />
            <p className="text-ink-2">
              {heir
                ? `Later deliveries of ${row.name} go to ${heir.name}, too.`
                : "Images stay, those that held nothing else as empty."}{" "}
              Either can be undone.
            </p>
          </>
        )}
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="harm">
            {heir ? `Merge into ${heir.name}` : row.objects === 0 ? "Remove it" : "Remove it with its labels"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
