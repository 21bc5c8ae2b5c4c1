import type { ClassInfo } from "@larder/core/model/item";
import type { classes } from "../../db/schema";

/** What a class's row says of it in the terms of formats. */
export function classInfoOf({
  name,
  keypoints,
  skeleton,
  pairs,
  supercategory,
  sourceId,
}: typeof classes.$inferSelect): ClassInfo {
  return {
    name,
    ...(keypoints ? { keypoints } : {}),
    ...(skeleton ? { skeleton } : {}),
    ...(pairs ? { pairs } : {}),
    ...(supercategory !== null ? { supercategory } : {}),
    ...(sourceId !== null ? { sourceId } : {}),
  };
}
