"use client";
import type { Delivery } from "@larder/server/db/schema";
import type { UndoWord } from "@larder/server/services/intake/undo";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";

/** What happened to labels since the delivery was taken in, and what undoing does about it. */
function Since({ word }: { word: UndoWord }) {
  const said = [
    word.imagesChangedSince > 0
      ? `${count(word.imagesChangedSince, "image")} of it had labels changed since; these changes go too.`
      : "",
    word.restored > 0
      ? `${count(word.restored, "image")} of other deliveries get the labels back that they had before.`
      : "",
    word.keptAsTheyAre > 0
      ? `${count(word.keptAsTheyAre, "image")} of other deliveries had labels changed again since, and stay as they are now.`
      : "",
  ].filter((sentence) => sentence !== "");
  return said.length > 0 ? <p className="mb-3 text-look">{said.join(" ")}</p> : null;
}

/** Asks before a delivery is undone as a whole, or put aside before it was taken in. */
export function UndoDelivery({ delivery, onDone }: { delivery: Wire<Delivery>; onDone: () => void }) {
  const client = useQueryClient();
  const router = useRouter();
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const taken = delivery.status === "taken";
  const { data: word } = useQuery({
    queryKey: ["delivery", delivery.id, "before-undo"],
    enabled: taken,
    queryFn: ({ signal }) => api<UndoWord>(`/api/deliveries/${delivery.id}/before-undo`, { signal }),
  });
  const go = async () => {
    setBusy(true);
    setError(null);
    try {
      const { images } = await api<{ images: number }>(`/api/deliveries/${delivery.id}`, { method: "DELETE" });
      toast(
        taken
          ? `${delivery.name} is undone; ${count(images, "image")} left the stock.`
          : `${delivery.name} is put aside.`,
      );
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
      description={
        taken
          ? `Its ${count(word?.images ?? delivery.taken?.images ?? 0, "image")} leave the stock with all their labels, and the classes that only they used. Versions built from it stay as they are.`
          : "Nothing of it is in stock yet. What was sent for it is deleted."
      }
    >
      {word ? <Since word={word} /> : null}
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
