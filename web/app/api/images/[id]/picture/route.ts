import { pictureOf } from "@larder/server/services/pictures";
import { answer } from "@/edge/answer";
import { pictureAnswer } from "@/edge/picture-answer";

const types: Record<string, string> = {
  jpg: "image/jpeg",
  png: "image/png",
  webp: "image/webp",
  gif: "image/gif",
  avif: "image/avif",
  bmp: "image/bmp",
};

export const GET = answer(async ({ request, actor, id }) => {
  const { bytes, extension } = await pictureOf(actor, id());
  return pictureAnswer(request, bytes, types[extension] ?? "application/octet-stream");
});
