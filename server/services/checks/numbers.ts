import type { StockNumbers } from "@larder/core/checks/numbers/stock-numbers";
import { z } from "zod";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { partOf, scopeSchema } from "./scope";

export const numbersSchema = z.object({
  ...scopeSchema.shape,
  /** The longer edge of an image as a trainer sees it, in pixels. */
  longEdge: z.coerce.number().int().min(16).max(16_384).default(640),
});

/** What is in a collection's stock, or in a part of it, in numbers. */
export async function numbersOf(
  actor: Actor,
  collection: number,
  { longEdge, ...scope }: z.output<typeof numbersSchema>,
): Promise<StockNumbers> {
  await allow(actor, "see", { collection });
  return ask("numbers", collection, { longEdge, ...(await partOf(collection, scope)) });
}
