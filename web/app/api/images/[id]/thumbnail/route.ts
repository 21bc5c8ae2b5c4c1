import { thumbnailOf } from "@larder/server/services/pictures";
import { answer } from "@/edge/answer";
import { pictureAnswer } from "@/edge/picture-answer";

export const GET = answer(async ({ request, actor, id }) => {
  const bytes = await thumbnailOf(actor, id());
  return pictureAnswer(request, bytes, "image/webp");
});
