import { answer, one } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { bucketLevel } from "@larder/server/services/intake/sources";
import { z } from "zod";

export const GET = answer(({ query }) => {
  const { bucket, prefix } = query(z.object({ bucket: one(z.string()), prefix: one(z.string().default("")) }));
  return bucketLevel(localActor, bucket, prefix);
});
