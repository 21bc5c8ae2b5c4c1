"use client";
import type { ClassRow } from "@larder/server/services/classes";
import { useQueryClient } from "@tanstack/react-query";
import { MoreHorizontal } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";
import { Menu, MenuItem } from "@/ui/menu";
import { count } from "@/ui/words";

function RenameDialog({ row, collection, onClose }: { row: ClassRow; collection: number; onClose: () => void }) {
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

function MergeDialog({
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
  const [chosen, setChosen] = useState("");
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

/** What can be done to a class. */
export function ClassMenu({ row, rows, collection }: { row: ClassRow; rows: readonly ClassRow[]; collection: number }) {
  const [asked, setAsked] = useState<"rename" | "merge" | null>(null);
  const onClose = () => setAsked(null);
  return (
    <>
      <Menu
        trigger={
          <button type="button" aria-label={`Change ${row.name}`} className="rounded-sm px-1.5 py-1 hover:bg-well">
            <MoreHorizontal size={15} aria-hidden="true" />
          </button>
        }
      >
        <MenuItem onSelect={() => setAsked("rename")}>Rename</MenuItem>
        {rows.length > 1 ? <MenuItem onSelect={() => setAsked("merge")}>Merge into another</MenuItem> : null}
      </Menu>
      {asked === "rename" ? <RenameDialog {...{ row, collection, onClose }} /> : null}
      {asked === "merge" ? <MergeDialog {...{ row, rows, collection, onClose }} /> : null}
    </>
  );
}
