"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { printSelection } from "@larder/core/selection/print";
import { useState } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";

/** A name as it stands in object conditions. */
function inConditions(name: string): string {
  const printed = printSelection({
    kind: "has",
    least: 1,
    most: null,
    classes: [{ text: name, quoted: false }],
    where: null,
  });
  return printed.replace(/^has /, "");
}

/** Makes a new class of those objects of one that meet conditions. */
export function SplitOffDialog({
  row,
  collection,
  onClose,
}: {
  row: ClassRow;
  collection: number;
  onClose: () => void;
}) {
  const { act } = useActs(collection);
  const [name, setName] = useState("");
  const [objects, setObjects] = useState(`${inConditions(row.name)} (share < 1%)`);
  const split = async () => {
    try {
      const own = name.trim();
      await api(`/api/collections/${collection}/classes`, {
        method: "POST",
        body: { text: JSON.stringify({ classes: [{ name: own }] }), fileName: "new.json" },
      });
      const rows = await api<ClassRow[]>(`/api/collections/${collection}/classes`);
      const made = rows.find((one) => one.name === own);
      if (!made) throw new Error(`"${own}" was merged into another class, and stands for that one.`);
      onClose();
      await act({ where: "", only: null, except: [] }, { do: "reclass", objects, class: made.id });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Split off from ${row.name}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void split();
        }}
      >
        <TextField
          label="The new class"
          autoFocus
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <TextField
          label="Takes these objects"
          value={objects}
          onChange={(event) => setObjects(event.target.value)}
          hint="The class, then conditions in brackets: share, area, width, height, confidence, attributes."
        />
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={name.trim() === "" || objects.trim() === ""}>
            Split it off
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
