"use client";
import { classColourCount } from "@larder/core/relabel/class-colours";
import type { ClassRow } from "@larder/server/services/classes";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { classFill } from "@/ui/colours";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";

/** Asks for a class's code and colour, and for the class that it stands under. */
export function FactsDialog({
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
  const client = useQueryClient();
  const [code, setCode] = useState(row.code);
  const [colour, setColour] = useState(row.colour % classColourCount);
  const [parent, setParent] = useState(row.parent === null ? "" : String(row.parent));
  const [problem, setProblem] = useState<string | null>(null);
  const save = async () => {
    try {
      await api(`/api/classes/${row.id}`, {
        method: "PATCH",
        body: { code, colour, parent: parent === "" ? null : Number(parent) },
      });
      await client.invalidateQueries({ queryKey: ["classes", collection] });
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Code, colour and parent of ${row.name}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <TextField
          label="Code"
          autoFocus
          maxLength={4}
          value={code}
          error={problem ?? undefined}
          onChange={(event) => setCode(event.target.value.toUpperCase())}
          hint="One to four letters or digits: what the class is typed by, and its sign beside the colour."
        />
        <fieldset>
          <legend className="mb-1 text-small font-medium text-ink-2">Colour</legend>
          <div className="grid grid-cols-12 gap-1">
            {Array.from({ length: classColourCount }, (_, n) => (
              <label key={n} className="block">
                <input
                  type="radio"
                  name="colour"
                  className="peer sr-only"
                  checked={n === colour}
                  onChange={() => setColour(n)}
                  aria-label={`Colour ${n + 1}`}
                />
                <span
                  className="block h-6 cursor-pointer rounded-sm outline-offset-2 peer-checked:outline-2 peer-checked:outline-ink peer-checked:outline-solid peer-focus-visible:outline-4"
                  style={{ background: classFill(n) }}
                />
              </label>
            ))}
          </div>
        </fieldset>
        <SelectField
          label="Stands under"
          value={parent}
          options={[
            { value: "", label: "no other class" },
            ...rows.filter(({ id }) => id !== row.id).map(({ id, name }) => ({ value: String(id), label: name })),
          ]}
          onChange={setParent}
        />
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={code.trim() === ""}>
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
