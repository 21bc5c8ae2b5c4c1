import { answer } from "@/edge/answer";
import { recentJobs } from "@larder/server/jobs/queue";

export const GET = answer(() => recentJobs());
