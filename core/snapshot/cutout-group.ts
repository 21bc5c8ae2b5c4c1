/** What cut-outs are of, and the orders in which they stand. */
import { z } from "zod";

/** Objects of a class, images that have a class of their own, or objects with a value of an attribute. */
export const cutoutGroupSchema = z.discriminatedUnion("of", [
  z.object({ of: z.literal("class"), id: z.number().int() }),
  z.object({ of: z.literal("image-class"), id: z.number().int() }),
  z.object({ of: z.literal("attribute"), name: z.string(), value: z.string() }),
]);
export type CutoutGroup = z.infer<typeof cutoutGroupSchema>;

/** By size, by distance from the class's centre, by how near another class's centre is, by confidence, by delivery. */
export const cutoutOrders = ["size", "outlying", "other", "confidence", "delivery"] as const;
export type CutoutOrder = (typeof cutoutOrders)[number];

/** Whether an order needs the features of the stock. */
export const orderNeedsLearned = (by: CutoutOrder) => by === "outlying" || by === "other";
