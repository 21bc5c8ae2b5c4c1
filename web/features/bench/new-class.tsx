"use client";
import { bareName } from "@larder/core/relabel/look-alike";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";

/** A class made on the spot; one that looks like another is pointed out before. */
export function NewClass({
  collection,
  names,
  onClose,
}: {
  collection: number;
  names: readonly string[];
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const wanted = name.trim();
  const isThere = names.includes(wanted);
  const alike = isThere || wanted === "" ? undefined : names.find((one) => bareName(one) === bareName(wanted));
  const make = async () => {
    try {
      await api(`/api/collections/${collection}/classes`, {
        method: "POST",
        body: { text: wanted, fileName: "names.txt" },
      });
      await client.invalidateQueries({ queryKey: ["classes", collection] });
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="New class">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (wanted !== "" && !isThere) void make();
        }}
      >
        <label className="block">
          Name
          <input
            autoFocus
            value={name}
            onChange={({ target }) => setName(target.value)}
            className="mt-1 h-8 w-full rounded-md border border-rule-strong bg-sheet px-2"
          />
        </label>
        <p role="status" className="mt-2 min-h-5 text-ink-2">
          {isThere
            ? "There is a class of this name already."
            : alike
              ? `It looks like ${alike}, which is there already.`
              : ""}
        </p>
        <div className="mt-2 flex justify-end gap-2">
          <DialogCancel />
          <Button look="go" type="submit" disabled={wanted === "" || isThere}>
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
