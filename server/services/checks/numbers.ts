import type { StockNumbers } from "@larder/core/checks/numbers/stock-numbers";
import { z } from "zod";
import { ask } from "../../snapshot/ask";
import { allow } from "../access";
import type { Actor } from "../actor";
import { needsJob, partAnswer } from "./part-answers";
import { partOf, scopeSchema } from "./scope";

export const numbersSchema = z.object({
  ...scopeSchema.shape,
  /** The longer edge of an image as a trainer sees it, in pixels. */
  longEdge: z.coerce.number().int().min(16).max(16_384).default(640),
});

/** Null where there is so much that a job counts it first. */
export type PartNumbers = { numbers: StockNumbers | null };

/** What is in a collection's stock, or in a part of it, in numbers. */
export async function numbersOf(
  actor: Actor,
  collection: number,
  { longEdge, ...scope }: z.output<typeof numbersSchema>,
): Promise<PartNumbers> {
  await allow(actor, "see", { collection });
  const argument = { longEdge, ...(await partOf(collection, scope)) };
  if (!(await needsJob(collection, scope))) return { numbers: await ask("numbers", collection, argument) };
  const { answer, isCurrent } = await partAnswer(collection, "numbers", argument, { ...scope, longEdge });
  return { numbers: isCurrent ? answer : null };
}
