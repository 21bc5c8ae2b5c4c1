import type { Job } from "@larder/server/jobs/queue";
import { api } from "./api";
import type { Wire } from "./queries";

const pause = 400;

/** Waits until a job has ended. Throws with its sentence where it did not come to its end. */
export async function untilJobEnds(id: string): Promise<void> {
  for (;;) {
    const { status, message } = await api<Wire<Job>>(`/api/jobs/${id}`);
    if (status === "done") return;
    if (status === "failed" || status === "stopped") throw new Error(message);
    await new Promise((resolve) => setTimeout(resolve, pause));
  }
}
