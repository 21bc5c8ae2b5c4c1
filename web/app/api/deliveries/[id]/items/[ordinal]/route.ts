import { answer } from "@/edge/answer";
import { pictureAnswer } from "@/edge/picture-answer";
import { previewPicture } from "@larder/server/services/intake/preview";
import { z } from "zod";

export const GET = answer(async ({ request, actor, id, url }) => {
  const ordinal = z.coerce.number().int().min(0).parse(url.pathname.split("/").pop());
  const bytes = await previewPicture(actor, id(), ordinal);
  return pictureAnswer(request, bytes, "image/webp");
});
