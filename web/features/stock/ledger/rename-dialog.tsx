"use client";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";

/** Asks for the other name of a column. */
export function RenameDialog({
  name,
  taken,
  onRename,
  onClose,
}: {
  name: string;
  taken: readonly string[];
  onRename: (to: string) => void;
  onClose: () => void;
}) {
  const [to, setTo] = useState(name);
  const bare = to.trim();
  const wrong = bare !== name && taken.includes(bare) ? "Another column has this name." : undefined;
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={`Rename ${name}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (bare !== "" && bare !== name && !wrong) onRename(bare);
        }}
      >
        <TextField
          label="Its new name"
          autoFocus
          maxLength={200}
          value={to}
          error={wrong}
          onChange={(event) => setTo(event.target.value)}
        />
        <p className="text-ink-2">On every image that says something of it, which can be undone.</p>
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={bare === "" || bare === name || wrong !== undefined}>
            Rename it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
