import { z } from "zod";

const pairs = z.array(z.tuple([z.number(), z.number()]));

/** A class as manifests list it. */
export const manifestClassSchema = z.object({
  name: z.string(),
  keypoints: z.array(z.string()).optional(),
  skeleton: pairs.optional(),
  pairs: pairs.optional(),
  supercategory: z.string().optional(),
  sourceId: z.string().optional(),
});
