"use client";
import type { Selection } from "@larder/core/selection/chosen";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { SelectField, TextField } from "@/ui/field";

/** Asks for a format and packs what is picked as it is, without a plan or a version. */
export function ExportDialog({
  collection,
  selection,
  many,
  formats,
  onClose,
}: {
  collection: number;
  selection: Selection;
  many: string;
  formats: readonly string[];
  onClose: () => void;
}) {
  const router = useRouter();
  const [format, setFormat] = useState(formats.includes("coco") ? "coco" : (formats[0] ?? ""));
  const [name, setName] = useState("");
  const pack = async () => {
    try {
      await api(`/api/collections/${collection}/exports`, { method: "POST", body: { ...selection, format, name } });
      onClose();
      toast(`${many} are being packed as ${format}.`, {
        action: { label: "See the package", onClick: () => router.push(`/c/${collection}/versions`) },
        duration: 10_000,
      });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={`Pack ${many} now`}
      description="As they are in stock, each in the split it has, those of none in train. It is no version: for what a model is trained on, build a plan."
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void pack();
        }}
      >
        <SelectField
          label="Format"
          value={format}
          options={formats.map((value) => ({ value, label: value }))}
          onChange={setFormat}
        />
        <TextField
          label="Name"
          maxLength={80}
          value={name}
          placeholder={many}
          onChange={(event) => setName(event.target.value)}
        />
        <div className="flex justify-end gap-2">
          <Button type="button" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" look="go" disabled={format === ""}>
            Pack as {format}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
