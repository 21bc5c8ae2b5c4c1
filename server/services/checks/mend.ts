/** The pictures that prove a finding, and the acts that mend it. */
import type { ShownProof } from "@larder/core/checks/shown-finding";
import type { LabelRequest } from "@larder/core/labels/request";
import { Failure } from "@larder/core/model/failure";
import { inArray } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { objects } from "../../db/schema";
import { mostMended } from "../../snapshot/checked-part";
import { allow } from "../access";
import { act, type ActOutcome } from "../acts";
import type { Actor } from "../actor";
import { scopeSchema } from "./scope";
import { asEntry, type CheckEntry } from "./check-entry";
import { proofsIn } from "./part-answers";

export const gone = () =>
  new Failure("finding-gone", "This is not found any more: it was mended, or what it goes by changed.", 404);

export const proofsSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  start: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

/** Images that prove a finding, in its order. Throws where it is not found any more. */
export async function proofsOf(
  actor: Actor,
  collection: number,
  { key, start, limit, ...scope }: z.output<typeof proofsSchema>,
): Promise<{ finding: CheckEntry; proofs: ShownProof[] }> {
  await allow(actor, "see", { collection });
  const answer = await proofsIn(collection, scope, { key, start, limit });
  if (!answer) throw gone();
  return { finding: asEntry(answer.finding), proofs: answer.proofs };
}

export const mendSchema = z.object({
  ...scopeSchema.shape,
  key: z.string().min(1).max(1000),
  /** Which of its mends, by its place. */
  mend: z.number().int().min(0),
  /** What was seen to prove it; where that is not so any more, nothing is done. */
  mark: z.string(),
});

/** Does what mends a finding, as one act that is undone as one. */
export async function mendFinding(
  actor: Actor,
  collection: number,
  input: z.input<typeof mendSchema>,
): Promise<ActOutcome> {
  await allow(actor, "label", { collection });
  const { key, mend: place, mark, ...scope } = mendSchema.parse(input);
  const answer = await proofsIn(collection, scope, { key, start: 0, limit: mostMended });
  if (!answer) throw gone();
  const { finding, proofs } = answer;
  if (finding.mark !== mark)
    throw new Failure("finding-changed", `By now it is: ${finding.sentence} Look at it again.`, 409);
  const mend = finding.mends[place];
  if (!mend) throw new Failure("mend-missing", "There is no such way to mend it.", 404);
  if ("request" in mend && mend.request.do === "merge") return act(actor, collection, { act: mend.request });
  const request = "request" in mend ? mend.request : await objectRequest(mend, proofs);
  const only = (mend.only ?? proofs.flatMap(({ image }) => image ?? [])).slice(0, mostMended);
  return act(actor, collection, { only, act: request });
}

async function objectRequest(
  mend: { removes: "objects" } | { into: number },
  proofs: readonly ShownProof[],
): Promise<LabelRequest> {
  const ids = proofs.flatMap(({ objects: list }) => list.map(({ id }) => id)).slice(0, mostMended);
  const rows = await db().select({ uid: objects.uid }).from(objects).where(inArray(objects.id, ids));
  const uids = rows.map(({ uid }) => uid);
  return "into" in mend ? { do: "reclass", objects: uids, class: mend.into } : { do: "remove-objects", objects: uids };
}
