import { answer } from "@/edge/answer";
import { requestPause } from "@larder/server/jobs/queue";
import { z } from "zod";

export const POST = answer(async ({ url }) => requestPause(z.uuid().parse(url.pathname.split("/").at(-2))));
