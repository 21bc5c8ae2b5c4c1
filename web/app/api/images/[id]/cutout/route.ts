import { cutoutBoxSchema, cutoutPicture } from "@larder/server/services/stock/cutout-picture";
import { z } from "zod";
import { answer, one } from "@/edge/answer";
import { pictureAnswer } from "@/edge/picture-answer";

const askedSchema = z.object({
  x: one(cutoutBoxSchema.shape.x),
  y: one(cutoutBoxSchema.shape.y),
  width: one(cutoutBoxSchema.shape.width),
  height: one(cutoutBoxSchema.shape.height),
});

export const GET = answer(async ({ request, actor, id, query }) => {
  const bytes = await cutoutPicture(actor, id(), query(askedSchema));
  return pictureAnswer(request, bytes, "image/webp");
});
