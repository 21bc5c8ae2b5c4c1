"use client";
import type { SavedSelection } from "@larder/server/services/stock/saved-selections";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { number } from "@/ui/words";

/** The saved selections of a collection as chips, each with how many images it means now. */
export function SavedChips({
  collection,
  where,
  onChoose,
}: {
  collection: number;
  where: string;
  onChoose: (where: string) => void;
}) {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["selections", collection],
    queryFn: ({ signal }) => api<SavedSelection[]>(`/api/collections/${collection}/selections`, { signal }),
  });
  if (!data || data.length === 0) return null;
  const forget = async (id: number) => {
    await api(`/api/collections/${collection}/selections/${id}`, { method: "DELETE" }).catch((error: Error) =>
      toast.error(error.message),
    );
    await client.invalidateQueries({ queryKey: ["selections", collection] });
  };
  return (
    <ul aria-label="Saved selections" className="flex min-w-0 flex-wrap gap-1.5">
      {data.map((saved) => (
        <li key={saved.id} className="flex items-center rounded-sm border border-rule bg-sheet">
          <button
            type="button"
            aria-pressed={saved.where === where}
            title={saved.problem ?? saved.where}
            onClick={() => onChoose(saved.where)}
            className={`px-2 py-0.5 text-small hover:bg-well ${saved.where === where ? "font-semibold" : ""}`}
          >
            {saved.name}{" "}
            <span className={`tabular-nums ${saved.problem ? "text-look" : "text-ink-3"}`}>
              {saved.images === null ? "cannot be read" : number(saved.images)}
            </span>
          </button>
          <button
            type="button"
            aria-label={`Forget ${saved.name}`}
            onClick={() => void forget(saved.id)}
            className="px-1 py-1 text-ink-3 hover:bg-well hover:text-ink"
          >
            <X size={12} aria-hidden="true" />
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Asks for the name under which a selection is saved for everybody who works here. */
export function SaveDialog({ collection, where, onClose }: { collection: number; where: string; onClose: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const save = async () => {
    try {
      await api(`/api/collections/${collection}/selections`, { method: "POST", body: { name, where } });
      await client.invalidateQueries({ queryKey: ["selections", collection] });
      onClose();
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title="Save this selection"
      description="Everybody who works in this collection sees it, with its number as things stand."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <p className="mb-3 rounded-sm bg-well px-2 py-1 font-mono text-small break-words">{where}</p>
        <TextField
          label="Name, one word"
          autoFocus
          maxLength={60}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        {problem ? <p className="mt-2 text-harm">{problem}</p> : null}
        <div className="mt-4 flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={name.trim() === ""}>
            Save
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
