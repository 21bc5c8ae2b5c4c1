"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";

/** Asks for another name of a class. */
export function RenameDialog({ row, collection, onClose }: { row: ClassRow; collection: number; onClose: () => void }) {
  const client = useQueryClient();
  const { undo } = useActs(collection);
  const [name, setName] = useState(row.name);
  const [problem, setProblem] = useState<string | null>(null);
  const rename = async () => {
    try {
      const { act, text } = await api<{ act: number | null; text: string }>(`/api/classes/${row.id}/name`, {
        method: "PUT",
        body: { name },
      });
      await client.invalidateQueries({ queryKey: ["classes", collection] });
      if (act !== null)
        toast(`${text.charAt(0).toUpperCase()}${text.slice(1)}.`, {
          action: { label: "Undo", onClick: () => void undo(act) },
        });
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`Rename ${row.name}`}
      description="Deliveries that still use the former name are matched to this class."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void rename();
        }}
      >
        <TextField
          label="Name"
          autoFocus
          maxLength={200}
          value={name}
          error={problem ?? undefined}
          onChange={(event) => setName(event.target.value)}
        />
        <div className="mt-4 flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={name.trim() === "" || name.trim() === row.name}>
            Rename
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
