import { answer, one } from "@/edge/answer";
import { bucketLevel } from "@larder/server/services/intake/sources";
import { z } from "zod";

export const GET = answer(({ actor, query }) => {
  const { bucket, prefix } = query(z.object({ bucket: one(z.string()), prefix: one(z.string().default("")) }));
  return bucketLevel(actor, bucket, prefix);
});
