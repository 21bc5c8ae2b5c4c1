"use client";
import type { Delivery } from "@larder/server/services/deliveries";
import { useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";

/** Asks before a delivery is undone as a whole, or put aside before it was taken in. */
export function UndoDelivery({ delivery, onDone }: { delivery: Wire<Delivery>; onDone: () => void }) {
  const client = useQueryClient();
  const router = useRouter();
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const taken = delivery.status === "taken";
  const go = async () => {
    setBusy(true);
    setError(null);
    try {
      const { images } = await api<{ images: number }>(`/api/deliveries/${delivery.id}`, { method: "DELETE" });
      toast(taken ? `${delivery.name} is undone; ${count(images, "image")} left the stock.` : `${delivery.name} is put aside.`);
      onDone();
      router.push(`/c/${delivery.collectionId}/deliveries`);
      await client.invalidateQueries();
    } catch (problem) {
      setError((problem as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onDone()}
      title={taken ? `Undo ${delivery.name}` : `Put ${delivery.name} aside`}
      description={taken ? `Its ${count(delivery.taken?.images ?? 0, "image")} leave the stock with all their labels, and the classes that only they used. Versions built from it stay as they are.` : "Nothing of it is in stock yet. The archive that was sent is deleted."}
    >
      {error ? <p className="mb-3 text-harm">{error}</p> : null}
      <div className="flex justify-end gap-2">
        <Button onClick={onDone}>Cancel</Button>
        <Button look="harm" disabled={busy} onClick={() => void go()}>
          {taken ? "Undo delivery" : "Put aside"}
        </Button>
      </div>
    </Dialog>
  );
}
