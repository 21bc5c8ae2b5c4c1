import { answer, one } from "@/edge/answer";
import { folderLevel } from "@larder/server/services/intake/sources";
import { z } from "zod";

export const GET = answer(({ actor, query }) => {
  const { root, path } = query(z.object({ root: one(z.string()), path: one(z.string().default("")) }));
  return folderLevel(actor, root, path);
});
