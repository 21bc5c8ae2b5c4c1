"use client";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import type { CheckScope } from "./scope";

/** Asks why a finding, or one picture of it, is no fault. */
export function DismissDialog({
  collection,
  scope,
  finding,
  image,
  onClose,
}: {
  collection: number;
  scope: CheckScope;
  finding: { key: string; sentence: string };
  image: { id: number; name: string } | null;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [reason, setReason] = useState("");
  const dismiss = async () => {
    try {
      await api(`/api/collections/${collection}/checks/dismissals`, {
        method: "POST",
        body: { key: finding.key, image: image?.id ?? null, reason, ...scope },
      });
      await client.invalidateQueries({ queryKey: ["checks", collection] });
      await client.invalidateQueries({ queryKey: ["check-proofs", collection] });
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={image ? `${image.name} is as it should be` : "This is as it should be"}
      description={
        image
          ? "The check says nothing of this image until its labels change."
          : `“${finding.sentence}” is not said again until other pictures prove it.`
      }
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (reason.trim() !== "") void dismiss();
        }}
      >
        <TextField
          label="Why"
          autoFocus
          maxLength={1000}
          value={reason}
          onChange={(event) => setReason(event.target.value)}
          hint="Kept with your name and the day."
        />
        <div className="mt-4 flex justify-end gap-2">
          <DialogCancel />
          <Button look="go" type="submit" disabled={reason.trim() === ""}>
            Dismiss
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
