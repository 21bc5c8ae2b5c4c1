"use client";
import { api } from "@/features/live/api";
import { openJob } from "@/features/live/open-job";
import { useJobs } from "@/features/live/queries";
import { timeLeft } from "@/features/live/time-left";
import { Button } from "@/ui/button";
import { number } from "@/ui/words";
import type { DeliveryRow } from "./delivery-row";

/** What is being done with the delivery now: how far it is, pause, go on, stop. */
export function Working({ delivery }: { delivery: DeliveryRow }) {
  const { data: jobs } = useJobs();
  const kinds = delivery.status === "read" ? (["look-into"] as const) : (["read-delivery", "take-in"] as const);
  const job = openJob(jobs, kinds, delivery.id);
  if (!job && delivery.status === "read") return null;
  const share = job && job.total > 0 ? job.done / job.total : 0;
  const left = job ? timeLeft(job) : "";
  const paused = job?.status === "paused" || (job?.pauseRequested ?? false);
  const ask = (word: string) => () => void api(`/api/jobs/${job?.id}/${word}`, { method: "POST" });
  return (
    <div role="status" className="border-y border-rule bg-info-wash px-5 py-3">
      <div className="flex items-center gap-3">
        <span className="font-semibold">
          {job?.message || (delivery.status === "taking" ? "Taking in" : "Reading")}
        </span>
        <span className="text-ink-2">
          {job && job.total > 0
            ? `${number(Math.min(job.done, job.total))} of ${number(job.total)}`
            : job?.status === "queued"
              ? "waiting for its turn"
              : paused
                ? "not begun"
                : "starting"}
          {paused ? " · paused" : left ? ` · ${left}` : ""}
          {delivery.status === "read" ? " · it can be taken in meanwhile" : ""}
        </span>
        {job ? (
          <span className="ml-auto flex gap-2">
            <Button small onClick={ask(paused ? "resume" : "pause")}>
              {paused ? "Go on" : "Pause"}
            </Button>
            <Button small disabled={job.stopRequested} onClick={ask("stop")}>
              {job.stopRequested ? "Stopping" : "Stop"}
            </Button>
          </span>
        ) : null}
      </div>
      <div className="mt-2 h-[5px] overflow-hidden rounded-sm bg-sheet">
        <div className="h-full bg-info" style={{ width: `${share * 100}%` }} />
      </div>
    </div>
  );
}
