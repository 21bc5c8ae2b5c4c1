/** What checks look at in a collection, and what people have settled of it. */
import type { Thresholds } from "@larder/core/checks/stocktake";
import { Failure } from "@larder/core/model/failure";
import { selectionSchema } from "@larder/core/selection/chosen";
import { longestText } from "@larder/core/selection/tokens";
import { and, desc, eq } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { checkDismissals, checkThresholds, versions } from "../../db/schema";
import type { CheckedPart, PlanQuestion, StocktakeQuestion } from "../../snapshot/questions";
import { resolvePlan } from "../planning/resolve-plan";
import { planRow } from "../plans";

export const scopeSchema = z.object({
  /** The part that is looked at: a text of the selection language; an empty one for all of it. */
  where: z.string().max(longestText).default(""),
  /** The id of a plan: what it leaves of the stock is looked at. */
  plan: z.coerce.number().int().positive().optional(),
  /** The number of a version: what was frozen is looked at. */
  version: z.coerce.number().int().positive().optional(),
});
export type Scope = z.output<typeof scopeSchema>;

/** Whether it is the stock, and all of it. */
export const isAll = ({ where, plan, version }: Scope) => where.trim() === "" && !plan && !version;

/** Whether it is not the stock itself: what a plan leaves of it, or a version. */
export const isMadeOfStock = ({ plan, version }: Scope) => plan !== undefined || version !== undefined;

async function planQuestion(collection: number, id: number): Promise<PlanQuestion> {
  const { collectionId, body } = await planRow(id);
  if (collectionId !== collection) throw new Failure("plan-missing", "This collection has no such plan.", 404);
  return resolvePlan(collection, body);
}

async function digestOf(collection: number, number: number): Promise<string> {
  const [row] = await db()
    .select({ digest: versions.digest })
    .from(versions)
    .where(and(eq(versions.collectionId, collection), eq(versions.number, number), eq(versions.status, "frozen")));
  if (!row?.digest) throw new Failure("version-missing", `This collection has no version v${number}.`, 404);
  return row.digest;
}

export async function partOf(collection: number, { where, plan, version }: Scope): Promise<CheckedPart> {
  if (plan && version) throw new Failure("scope-twofold", "Look at a plan or at a version, not at both.", 422);
  return {
    selection: where.trim() === "" ? null : selectionSchema.parse({ where }),
    plan: plan ? await planQuestion(collection, plan) : null,
    version: version ? await digestOf(collection, version) : null,
  };
}

export type DismissalRow = typeof checkDismissals.$inferSelect;

/** Thresholds that were set, and dismissals, latest first. */
export async function settledIn(
  collection: number,
): Promise<Pick<StocktakeQuestion, "thresholds" | "exempt"> & { dismissals: DismissalRow[] }> {
  const [rows, dismissals] = await Promise.all([
    db().select().from(checkThresholds).where(eq(checkThresholds.collectionId, collection)),
    db()
      .select()
      .from(checkDismissals)
      .where(eq(checkDismissals.collectionId, collection))
      .orderBy(desc(checkDismissals.id)),
  ]);
  const thresholds: Thresholds = Object.fromEntries(rows.map(({ code, value }) => [code, value]));
  const exempt = dismissals.flatMap(({ key, imageId, mark }) =>
    imageId === null ? [] : [{ code: key, image: imageId, changed: Number(mark) }],
  );
  return { thresholds, exempt, dismissals };
}

/** All that the checks need to know. */
export async function questionOf(
  collection: number,
  scope: Scope,
): Promise<{ question: StocktakeQuestion; dismissals: DismissalRow[] }> {
  const [part, { dismissals, ...settled }] = await Promise.all([partOf(collection, scope), settledIn(collection)]);
  return { question: { ...part, ...settled }, dismissals };
}
