"use client";
import type { LabelRequest } from "@larder/core/labels/request";
import type { Selection } from "@larder/core/selection/chosen";
import type { ActOutcome, HistoryEntry } from "@larder/server/services/acts";
import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { toast } from "sonner";
import type { CheckScope } from "@/features/checks/scope";
import { api, ApiError } from "@/features/live/api";
import { touches } from "@/features/live/touched";
import { untilJobEnds } from "@/features/live/until-job-ends";

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** What an act came to, once it is done; large ones are jobs. */
async function ended(collection: number, outcome: ActOutcome): Promise<ActOutcome> {
  if (outcome.job === null) return outcome;
  await untilJobEnds(outcome.job);
  const { entries } = await api<{ entries: HistoryEntry[] }>(
    `/api/collections/${collection}/acts?before=${outcome.act + 1}&limit=1`,
  );
  return { ...outcome, ...entries[0] };
}

/** Doing things to many images of a collection, and taking them back; a toast says what came of it. */
export function useActs(collection: number) {
  const client = useQueryClient();
  return useMemo(() => {
    const perform = async (
      work: () => Promise<ActOutcome>,
      onDone: (outcome: ActOutcome) => void,
      again?: (images: number) => void,
      alsoDelivery?: () => void,
    ) => {
      try {
        const begun = await work();
        const waiting = begun.job === null ? null : toast.loading(`${capital(begun.text)} …`);
        const outcome = await ended(collection, begun).finally(() => waiting !== null && toast.dismiss(waiting));
        await client.invalidateQueries({
          predicate: ({ queryKey }) => touches(queryKey, ["stock", "classes", "deliveries", "shelf"], collection),
        });
        onDone(outcome);
      } catch (error) {
        const now = error instanceof ApiError && error.code === "selection-changed" ? error.details["images"] : null;
        if (error instanceof ApiError && error.code === "undo-delivery" && alsoDelivery)
          toast(error.message, { action: { label: "Undo the delivery", onClick: alsoDelivery }, duration: 10_000 });
        else if (typeof now !== "number" || !again) toast.error((error as Error).message);
        else toast((error as Error).message, { action: { label: `Do it to ${now}`, onClick: () => again(now) } });
      }
    };
    const undo = (act: number) =>
      perform(
        () => api<ActOutcome>(`/api/acts/${act}/undo`, { method: "POST" }),
        ({ act: undoing, text }) =>
          toast(`${capital(text)}.`, { action: { label: "Do again", onClick: () => void undo(undoing) } }),
      );
    /** `expected` is how many images the person was told of; where there are others by now, it is asked again. */
    const act = (selection: Selection, request: LabelRequest, expected?: number): Promise<void> =>
      perform(
        () =>
          api<ActOutcome>(`/api/collections/${collection}/acts`, {
            method: "POST",
            body: { ...selection, act: request, ...(expected === undefined ? {} : { expected }) },
          }),
        ({ act: done, images, text }) =>
          images === 0
            ? toast("Nothing had to be changed.")
            : toast(`${capital(text)}.`, {
                action: { label: "Undo", onClick: () => void undo(done) },
                duration: 10_000,
              }),
        (images) => void act(selection, request, images),
      );
    /** Gives the stock the splits that a plan deals. */
    const deal = (plan: number): Promise<void> =>
      perform(
        () => api<ActOutcome>(`/api/plans/${plan}/deal`, { method: "POST" }),
        ({ act: done, images, text }) =>
          images === 0
            ? toast("The stock has these splits already.")
            : toast(`${capital(text)}.`, {
                action: { label: "Undo", onClick: () => void undo(done) },
                duration: 10_000,
              }),
      );
    /** Mends what a check found in a part of the stock; `mark` is what proved it when it was looked at. */
    const mendFinding = (body: { key: string; mend: number; mark: string } & CheckScope): Promise<void> =>
      perform(
        () => api<ActOutcome>(`/api/collections/${collection}/checks/mend`, { method: "POST", body }),
        ({ act: done, text }) =>
          toast(`${capital(text)}.`, { action: { label: "Undo", onClick: () => void undo(done) }, duration: 10_000 }),
      );
    /** A whole delivery is not taken back by a key alone: it is asked about first. */
    const undoLast = (again: boolean, deliveries = false): Promise<void> =>
      perform(
        () => api<ActOutcome>(`/api/collections/${collection}/undo`, { method: "POST", body: { again, deliveries } }),
        ({ act: done, text }) =>
          toast(`${capital(text)}.`, {
            action: { label: again ? "Undo" : "Do again", onClick: () => void undo(done) },
          }),
        undefined,
        () => void undoLast(false, true),
      );
    return { act, deal, mendFinding, undo, undoLast };
  }, [client, collection]);
}
