import { renderingThumbnail } from "@larder/server/services/version-page";
import { answer } from "@/edge/answer";
import { pictureAnswer } from "@/edge/picture-answer";
import { z } from "zod";

const keySchema = z.string().regex(/^[0-9a-f]{64}$/, "This is no picture's name.");

export const GET = answer(async ({ request, actor, id, url }) => {
  const key = keySchema.parse(url.pathname.split("/").at(-1));
  return pictureAnswer(request, await renderingThumbnail(actor, id(), key), "image/webp");
});
