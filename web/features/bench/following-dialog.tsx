"use client";
import type { StockObject } from "@larder/core/labels/labels";
import type { Step } from "@larder/core/labels/step";
import type { BenchImage } from "@larder/server/services/bench";
import { useState } from "react";
import { toast } from "sonner";
import { v7 as uuidV7 } from "uuid";
import { api } from "@/features/live/api";
import { Button } from "@/ui/button";
import { Dialog, DialogCancel } from "@/ui/dialog";
import { NumberInput } from "@/ui/number-input";
import { count } from "@/ui/words";

const most = 200;

/** The chosen objects put into the images that follow in the row as well: for a camera that does not move. */
export function FollowingDialog({
  collection,
  objects,
  following,
  onClose,
}: {
  collection: number;
  objects: readonly StockObject[];
  following: (n: number) => readonly number[];
  onClose: () => void;
}) {
  const there = following(most).length;
  const [n, setN] = useState(Math.min(5, there));
  const [busy, setBusy] = useState(false);
  const put = async () => {
    setBusy(true);
    try {
      const entries = [];
      for (const id of following(n)) {
        const { revision, labels, size } = await api<BenchImage>(`/api/collections/${collection}/bench/${id}`);
        const order = Math.max(-1, ...labels.objects.map((object) => object.order)) + 1;
        const fits = objects.filter(
          ({ shape }) => shape.kind !== "mask" || (shape.width === size.width && shape.height === size.height),
        );
        const steps: Step[] = fits.map(({ group: _, ...object }, at) => ({
          do: "add-object",
          object: { ...object, uid: uuidV7(), order: order + at },
        }));
        if (labels.state !== "labeled") steps.push({ do: "set-state", state: "labeled" });
        if (fits.length > 0) entries.push({ image: id, revision, steps });
      }
      await api(`/api/collections/${collection}/steps`, { method: "POST", body: entries });
      toast(`${count(objects.length, "object")} put into ${count(entries.length, "image")}.`);
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title="The same on the following images"
      description={`${count(objects.length, "chosen object")} will stand in the same place there. ${count(there, "image")} can be reached from here.`}
    >
      <label className="flex items-center gap-2">
        The next
        <NumberInput value={n} min={1} max={Math.max(1, there)} onChange={setN} className="h-8 w-20" />
        images
      </label>
      <div className="mt-4 flex justify-end gap-2">
        <DialogCancel />
        <Button look="go" disabled={busy || there === 0} onClick={() => void put()}>
          Put them there
        </Button>
      </div>
    </Dialog>
  );
}
