"use client";
import type { Delivery } from "@larder/server/db/schema";
import type { UndoForecast } from "@larder/server/services/intake/undo-forecast";
import type { ActOutcome } from "@larder/server/services/acts";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { useActs } from "@/features/acts/use-acts";
import { api } from "@/features/live/api";
import { touches } from "@/features/live/touched";
import { untilJobEnds } from "@/features/live/until-job-ends";
import type { Wire } from "@/features/live/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { count } from "@/ui/words";

/** What happened to labels since the delivery was taken in, and what undoing does about it. */
function Since({ forecast }: { forecast: UndoForecast }) {
  const sentences = [
    forecast.imagesChangedSince > 0
      ? `${count(forecast.imagesChangedSince, "image")} of it had labels changed since; these changes go too.`
      : "",
    forecast.restored > 0
      ? `${count(forecast.restored, "image")} of other deliveries get the labels back that they had before.`
      : "",
    forecast.keptAsTheyAre > 0
      ? `${count(forecast.keptAsTheyAre, "image")} of other deliveries had labels changed again since, and stay as they are now.`
      : "",
  ].filter((sentence) => sentence !== "");
  return sentences.length > 0 ? <p className="mb-3 text-look">{sentences.join(" ")}</p> : null;
}

/** Asks before a delivery is undone as a whole, or put aside before it was taken in. */
export function UndoDelivery({ delivery, onDone }: { delivery: Wire<Delivery>; onDone: () => void }) {
  const client = useQueryClient();
  const router = useRouter();
  const [error, setError] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const { undo } = useActs(delivery.collectionId);
  const taken = delivery.status === "taken";
  const { data: forecast } = useQuery({
    queryKey: ["delivery", delivery.id, "before-undo"],
    enabled: taken,
    queryFn: ({ signal }) => api<UndoForecast>(`/api/deliveries/${delivery.id}/before-undo`, { signal }),
  });
  const go = async () => {
    setBusy(true);
    setError(null);
    try {
      const { act, job } = await api<Pick<ActOutcome, "job"> & { act: number | null }>(
        `/api/deliveries/${delivery.id}`,
        {
          method: "DELETE",
        },
      );
      onDone();
      router.push(`/c/${delivery.collectionId}/deliveries`);
      if (job) await untilJobEnds(job);
      toast(
        taken ? `${delivery.name} is undone; its images lie in the bin.` : `${delivery.name} is put aside.`,
        act === null ? {} : { action: { label: "Do again", onClick: () => void undo(act) }, duration: 10_000 },
      );
      await client.invalidateQueries({
        predicate: ({ queryKey }) =>
          touches(queryKey, ["stock", "classes", "deliveries", "shelf"], delivery.collectionId),
      });
    } catch (problem) {
      setError((problem as Error).message);
      toast.error((problem as Error).message);
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
          ? `Its ${count(forecast?.images ?? delivery.taken?.images ?? 0, "image")} go into the bin with all their labels, and the classes that only they used leave the list. Versions built from it stay as they are.`
          : "Nothing of it is in stock yet. What was sent for it is deleted."
      }
    >
      {forecast ? <Since forecast={forecast} /> : null}
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
