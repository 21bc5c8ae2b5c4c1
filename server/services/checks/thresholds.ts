import type { Check } from "@larder/core/checks/check";
import { allChecks } from "@larder/core/checks/stocktake";
import { Failure } from "@larder/core/model/failure";
import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { transaction } from "../../db/database";
import { checkThresholds } from "../../db/schema";
import { announce } from "../../jobs/events";
import { allow } from "../access";
import type { Actor } from "../actor";

const known = new Map<string, Check>(allChecks.map((check) => [check.code, check]));

export const thresholdSchema = z.object({ code: z.string().max(100), value: z.number().nullable() });

/** Sets what a check goes by in a collection; null is what is usual. */
export async function setThreshold(
  actor: Actor,
  collection: number,
  input: z.input<typeof thresholdSchema>,
): Promise<void> {
  await allow(actor, "label", { collection });
  const { code, value } = thresholdSchema.parse(input);
  const threshold = known.get(code)?.threshold;
  if (!threshold) throw new Failure("threshold-missing", "This check goes by no number.", 404);
  if (value !== null && (value < threshold.least || value > threshold.most))
    throw new Failure(
      "threshold-invalid",
      `This is from ${threshold.least} to ${threshold.most} ${threshold.unit}.`,
      422,
    );
  await transaction(async (tx) => {
    await tx
      .delete(checkThresholds)
      .where(and(eq(checkThresholds.collectionId, collection), eq(checkThresholds.code, code)));
    if (value !== null) await tx.insert(checkThresholds).values({ collectionId: collection, code, value });
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}
