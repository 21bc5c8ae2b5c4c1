"use client";
import { useQuery } from "@tanstack/react-query";
import { api } from "@/features/live/api";
import { openJob, progressWords } from "@/features/live/open-job";
import { useJobs } from "@/features/live/queries";
import { timeLeft } from "@/features/live/time-left";
import { Button } from "@/ui/button";

const everySecond = 1000;

/** The newest pictures of a version that is being built. */
function NewestPictures({ version }: { version: number }) {
  const { data } = useQuery({
    queryKey: ["renderings", version],
    refetchInterval: everySecond,
    queryFn: ({ signal }) => api<string[]>(`/api/versions/${version}/renderings`, { signal }),
  });
  if (!data || data.length === 0) return null;
  return (
    <ul aria-label="Pictures that came out last" className="mt-2 flex gap-1 overflow-hidden">
      {data.map((key) => (
        <li key={key}>
          <img
            src={`/api/versions/${version}/renderings/${key}`}
            alt=""
            className="size-14 rounded-sm bg-dim object-cover"
          />
        </li>
      ))}
    </ul>
  );
}

/** How far the build of a version is, with the pictures as they come out, and a way to stop it. */
export function Building({ version }: { version: number }) {
  const { data: jobs } = useJobs();
  const job = openJob(jobs, ["build-version"], version);
  const share = job && job.total > 0 ? job.done / job.total : 0;
  const left = job ? timeLeft(job) : "";
  return (
    <div className="max-w-2xl" role="status">
      <p className="flex items-center gap-2 text-info">
        <span>
          {progressWords(job)}
          {left ? ` · ${left}` : ""}
        </span>
        {job ? (
          <Button
            small
            look="quiet"
            disabled={job.stopRequested}
            onClick={() => void api(`/api/jobs/${job.id}/stop`, { method: "POST" })}
          >
            {job.stopRequested ? "Stopping" : "Stop"}
          </Button>
        ) : null}
      </p>
      <div className="mt-1.5 h-[5px] overflow-hidden rounded-sm bg-well">
        <div className="h-full bg-info" style={{ width: `${share * 100}%` }} />
      </div>
      <NewestPictures version={version} />
    </div>
  );
}
