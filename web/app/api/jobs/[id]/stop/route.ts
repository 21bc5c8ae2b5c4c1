import { answer } from "@/edge/answer";
import { requestStop } from "@larder/server/jobs/queue";
import { z } from "zod";

export const POST = answer(async ({ url }) => requestStop(z.uuid().parse(url.pathname.split("/").at(-2))));
