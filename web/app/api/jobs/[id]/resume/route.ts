import { answer } from "@/edge/answer";
import { resumeJob } from "@larder/server/jobs/queue";
import { z } from "zod";

export const POST = answer(async ({ url }) => resumeJob(z.uuid().parse(url.pathname.split("/").at(-2))));
