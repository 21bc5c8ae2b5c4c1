import type { Job } from "@larder/server/jobs/queue";
import { number } from "@/ui/words";
import type { Wire } from "./queries";

type JobRow = Wire<Job>;

const open: readonly JobRow["status"][] = ["queued", "running", "paused"];

/** The job of some kinds on a subject that waits, runs or is paused; what has ended is told of elsewhere. */
export function openJob(
  jobs: readonly JobRow[] | undefined,
  kinds: readonly JobRow["kind"][],
  subject: number,
): JobRow | undefined {
  return jobs?.find((job) => job.subject === subject && kinds.includes(job.kind) && open.includes(job.status));
}

/** What a job does and how far it is: "Making the images: 12 of 400". */
export function progressWords(job: Pick<JobRow, "message" | "done" | "total"> | undefined): string {
  if (!job) return "Waiting for its turn";
  return `${job.message || "Waiting for its turn"}${job.total > 0 ? `: ${number(job.done)} of ${number(job.total)}` : ""}`;
}
