"use client";
import { toast } from "sonner";
import { api } from "@/features/live/api";
import { useJobs, type Wire } from "@/features/live/queries";
import type { Job } from "@larder/server/jobs/queue";
import { timeLeft } from "@/features/live/time-left";
import { Button } from "@/ui/button";
import { count, number } from "@/ui/words";
import { Popover } from "@/ui/popover";

type JobRow = Wire<Job>;

function share(job: JobRow): number {
  return job.total > 0 ? Math.min(1, job.done / job.total) : 0;
}

function stateOf(job: JobRow): string {
  if (job.status === "queued") return "Waiting for its turn";
  const place = job.total > 0 ? `${number(job.done)} of ${number(job.total)}` : null;
  if (job.status === "paused") return place ? `Paused at ${place}` : "Paused before it began";
  return place ? `${job.message || "Working"}: ${place}` : job.message || "Starting";
}

/** A ring that fills with the share done. */
function Ring({ value }: { value: number }) {
  const around = 2 * Math.PI * 5.5;
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden="true" className="-rotate-90">
      <circle cx="8" cy="8" r="5.5" fill="none" strokeWidth="3" className="stroke-well" />
      <circle
        cx="8"
        cy="8"
        r="5.5"
        fill="none"
        strokeWidth="3"
        className="stroke-act"
        strokeDasharray={`${around * Math.max(0.06, value)} ${around}`}
      />
    </svg>
  );
}

async function ask(job: JobRow, word: "stop" | "pause" | "resume") {
  try {
    await api(`/api/jobs/${job.id}/${word}`, { method: "POST" });
  } catch (error) {
    toast.error((error as Error).message);
  }
}

/** What runs now, in the masthead; opened, each job with its progress and a way to stop it. */
export function Jobs() {
  const { data } = useJobs();
  const all = data ?? [];
  const live = all.filter((job) => job.status === "running" || job.status === "queued" || job.status === "paused");
  const first = live[0];
  return (
    <Popover
      label="Jobs"
      className="w-[380px] p-4"
      trigger={
        <button
          type="button"
          className="flex h-[30px] items-center gap-2 rounded-md px-2 text-ink-2 hover:bg-well"
          data-testid="jobs"
        >
          {first ? (
            <Ring value={share(first)} />
          ) : (
            <span className="size-2 rounded-full bg-rule-strong" aria-hidden="true" />
          )}
          <span aria-live="polite">
            {live.length === 0
              ? "no jobs"
              : live.length === 1
                ? `${Math.round(share(first as JobRow) * 100)}% · 1 job`
                : count(live.length, "job")}
          </span>
        </button>
      }
    >
      {all.length === 0 ? <p className="text-ink-3">Nothing is running.</p> : null}
      <ul className="flex flex-col gap-3.5">
        {all.slice(0, 8).map((job) => (
          <li key={job.id}>
            <div className="flex items-baseline gap-3">
              <span className="min-w-0 flex-1 truncate font-medium">{job.title}</span>
              {live.includes(job) ? (
                <span className="flex gap-1">
                  <Button
                    small
                    look="quiet"
                    disabled={job.status !== "paused" && job.pauseRequested}
                    onClick={() => void ask(job, job.status === "paused" ? "resume" : "pause")}
                  >
                    {job.status === "paused" ? "Go on" : job.pauseRequested ? "Pausing" : "Pause"}
                  </Button>
                  <Button small look="quiet" disabled={job.stopRequested} onClick={() => void ask(job, "stop")}>
                    {job.stopRequested ? "Stopping" : "Stop"}
                  </Button>
                </span>
              ) : (
                <span className={`text-small ${job.status === "failed" ? "text-harm" : "text-ink-3"}`}>
                  {job.status}
                </span>
              )}
            </div>
            {live.includes(job) ? (
              <>
                <div
                  className="mt-1 h-[5px] overflow-hidden rounded-sm bg-well"
                  role="progressbar"
                  aria-label={job.title}
                  aria-valuenow={Math.round(share(job) * 100)}
                  aria-valuemin={0}
                  aria-valuemax={100}
                >
                  <div className="h-full bg-act" style={{ width: `${share(job) * 100}%` }} />
                </div>
                <p className="mt-1 flex justify-between text-small text-ink-3">
                  <span>{stateOf(job)}</span>
                  <span>{timeLeft(job)}</span>
                </p>
              </>
            ) : job.status === "failed" ? (
              <p className="text-small text-harm">{job.message}</p>
            ) : null}
          </li>
        ))}
      </ul>
    </Popover>
  );
}
