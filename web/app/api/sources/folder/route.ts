import { answer, one } from "@/edge/answer";
import { localActor } from "@larder/server/services/actor";
import { folderLevel } from "@larder/server/services/intake/sources";
import { z } from "zod";

export const GET = answer(({ query }) => {
  const { root, path } = query(z.object({ root: one(z.string()), path: one(z.string().default("")) }));
  return folderLevel(localActor, root, path);
});
