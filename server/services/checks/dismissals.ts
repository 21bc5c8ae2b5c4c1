/** What people say of findings: that they are no fault. */
import { and, eq } from "drizzle-orm";
import { z } from "zod";
import { transaction } from "../../db/database";
import { checkDismissals } from "../../db/schema";
import { announce } from "../../jobs/events";
import { mostMended } from "../../snapshot/checked-part";
import { allow } from "../access";
import type { Actor } from "../actor";
import { gone } from "./mend";
import { proofsIn } from "./part-answers";
import { scopeSchema, type Scope } from "./scope";
import { codeOf } from "./check-entry";
import { stocktakeOf } from "./stocktake";

export const dismissSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  /** One of its images; null for all of it. */
  image: z.number().int().nullable().default(null),
  reason: z.string().trim().min(1, "Say why, for whoever wonders later.").max(1000),
});

/** Says of a finding, or of one image of it, that it is no fault: it is not said again until what proves it changes. */
export async function dismissFinding(
  actor: Actor,
  collection: number,
  input: z.input<typeof dismissSchema>,
): Promise<void> {
  await allow(actor, "label", { collection });
  const { key, image, reason, ...scope } = dismissSchema.parse(input);
  const mark = image === null ? await markOf(collection, key, scope) : await changedOf(collection, key, scope, image);
  await transaction(async (tx) => {
    await tx.insert(checkDismissals).values({
      ...{ collectionId: collection, key: image === null ? key : codeOf(key), imageId: image },
      ...{ mark, reason, actor: actor.id },
    });
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}

async function markOf(collection: number, key: string, scope: Scope): Promise<string> {
  const found = (await stocktakeOf(collection, scope)).findings.find((one) => one.key === key);
  if (!found) throw gone();
  return found.mark;
}

async function changedOf(collection: number, key: string, scope: Scope, image: number): Promise<string> {
  const answer = await proofsIn(collection, scope, { key, start: 0, limit: mostMended });
  const proof = answer?.proofs.find((one) => one.image === image);
  if (!proof) throw gone();
  return String(proof.changed);
}

/** Takes a dismissal back. */
export async function recallDismissal(actor: Actor, collection: number, id: number): Promise<void> {
  await allow(actor, "label", { collection });
  await transaction(async (tx) => {
    await tx
      .delete(checkDismissals)
      .where(and(eq(checkDismissals.id, id), eq(checkDismissals.collectionId, collection)));
    await announce({ collection, topics: ["checks"], revision: null }, tx);
  });
}
