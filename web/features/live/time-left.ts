import type { Job } from "@larder/server/jobs/queue";
import { duration } from "@/ui/words";
import type { Wire } from "./queries";

/** How long a job goes on at its pace so far, in words; nothing while that cannot be told. */
export function timeLeft({ startedAt, done, total }: Pick<Wire<Job>, "startedAt" | "done" | "total">): string {
  if (!startedAt || done < 10 || total <= done) return "";
  const seconds = (Date.now() - new Date(startedAt).getTime()) / 1000;
  return seconds < 4 ? "" : `about ${duration((seconds / done) * (total - done))} left`;
}
