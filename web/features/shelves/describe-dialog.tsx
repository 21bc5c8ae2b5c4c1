"use client";
import type { Shelf } from "@larder/server/services/collections";
import { useQueryClient } from "@tanstack/react-query";
import { useId, useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";

/** What a collection is, under which licence, and how it is cited. */
export function DescribeDialog({ shelf, onClose }: { shelf: Shelf; onClose: () => void }) {
  const client = useQueryClient();
  const id = useId();
  const [description, setDescription] = useState(shelf.description);
  const [licence, setLicence] = useState(shelf.licence);
  const [citation, setCitation] = useState(shelf.citation);
  const save = async () => {
    try {
      await api(`/api/collections/${shelf.id}`, { method: "PATCH", body: { description, licence, citation } });
      await client.invalidateQueries({ queryKey: ["shelves"] });
      onClose();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Dialog wide open onOpenChange={(open) => !open && onClose()} title={`What ${shelf.name} is`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <div>
          <label htmlFor={id} className="mb-1 block text-small font-medium text-ink-2">
            Description (Markdown)
          </label>
          <textarea
            id={id}
            autoFocus
            rows={9}
            maxLength={20_000}
            value={description}
            onChange={(event) => setDescription(event.target.value)}
            className="w-full rounded-md border border-rule-strong bg-sheet px-2.5 py-1.5"
          />
        </div>
        <TextField label="Licence" value={licence} onChange={(event) => setLicence(event.target.value)} />
        <TextField label="Citation" value={citation} onChange={(event) => setCitation(event.target.value)} />
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go">
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
