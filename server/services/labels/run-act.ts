/**
 * Acts on many images, worked off in batches in the order of the images' ids. Each batch is one transaction that also
 * says how far the act is: a worker that is lost leaves whole batches, and the next goes on from there.
 */
import { objectTest, type ObjectTest } from "@larder/core/labels/object-conditions";
import type { Labels } from "@larder/core/labels/labels";
import { imagesText, looksAtObjects, requestSteps, requestText, type LabelRequest } from "@larder/core/labels/request";
import type { Step } from "@larder/core/labels/step";
import { Failure } from "@larder/core/model/failure";
import { splitNames } from "@larder/core/model/item";
import { and, eq, sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { db, type Database, type Transaction } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { numberOf, rowsOf } from "../../db/query";
import { acts, type Act } from "../../db/schema";
import { changed } from "../../jobs/events";
import type { JobContext, JobHandler } from "../../jobs/handler";
import { onceEach } from "../../once-each";
import { larderActor } from "../actor";
import { selectionSql } from "../stock/selection-sql";
import { finishAct, resetAct } from "./act-effects";
import { workSchema, type ActWork } from "./act-work";
import { changeLabels, readingFor, type Steps } from "./change-labels";
import type { ObjectReading } from "./load-labels";
import { classNamesById } from "./class-names";
import { undoSteps } from "./undo-steps";

const batchSize = 2000;
const idSchema = z.object({ id: z.coerce.number() });

const drawnFrom = (request: LabelRequest) => (request.do === "restore" ? "bin" : "stock");

/** Images that have something of the class that goes; all others need not be looked at. */
function holdsWhatGoes(request: LabelRequest): SQL {
  if (request.do !== "merge" && request.do !== "drop-class") return sql`true`;
  const id = request.do === "merge" ? request.from : request.class;
  return sql`(i.class_counts ? ${String(id)}::text or ${id}::bigint = any(i.image_class_ids))`;
}

const requested = (act: Act, { request, selection, attributes }: Extract<ActWork, { kind: "request" }>) => {
  const known = { image: attributes, object: attributes };
  return sql`from images i where ${selectionSql(act.collectionId, selection, known, drawnFrom(request))}
    and ${holdsWhatGoes(request)} and i.id > ${act.reached}`;
};
const dealtBy = (act: Act, { splits }: Extract<ActWork, { kind: "deal" }>) => {
  const ids = [...splits.train, ...splits.val, ...splits.test];
  return sql`from images i where i.collection_id = ${act.collectionId} and i.removed_at is null
    and i.id = any(${numberList(ids)}) and i.id > ${act.reached}`;
};
const changedBy = (act: Act) => sql`from label_steps i where i.act_id = ${act.undoes} and i.image_id > ${act.reached}`;

/** What is done also where no image has anything of it. */
const withoutImages = new Set<LabelRequest["do"]>(["merge", "drop-class", "rename-attribute"]);

/** How many images an act has before it. */
export async function imagesAhead(on: Transaction, act: Act): Promise<number> {
  const work = workSchema.parse(act.request);
  if (work.kind === "rename") return 0;
  return numberOf(on, sql`select count(*) as n ${imagesOf(act, work)}`);
}

type BatchWork = Exclude<ActWork, { kind: "rename" }>;

/** The images that are still before an act. */
function imagesOf(act: Act, work: BatchWork): SQL {
  switch (work.kind) {
    case "undo":
      return changedBy(act);
    case "deal":
      return dealtBy(act, work);
    case "request":
      return requested(act, work);
  }
}

/** What an act does to its images; a renaming does nothing to any, and is done at once. */
function batchesOf(act: Act): BatchWork {
  const work = workSchema.parse(act.request);
  if (work.kind === "rename") throw new Error("a renaming has no batches");
  return work;
}

/** Of which objects an act speaks. */
async function objectsMeant(tx: Transaction, { collectionId }: Act, work: BatchWork): Promise<ObjectTest> {
  if (work.kind !== "request" || !("objects" in work.request)) return () => true;
  if (typeof work.request.objects !== "string") {
    const picked = new Set(work.request.objects);
    return ({ uid }) => picked.has(uid);
  }
  const names = await classNamesById(tx, collectionId);
  const known = { image: work.attributes, object: work.attributes };
  return objectTest(work.request.objects, known, (id) => names.get(id));
}

/** What has to be read of objects for a request: their shapes where conditions or removing may look at them. */
function readingOf(request: LabelRequest): ObjectReading {
  if (!looksAtObjects(request)) return "none";
  if (request.do === "merge") return { named: { class: request.from } };
  const saysOnly = request.do === "reclass" || request.do === "set-object-attribute";
  return saysOnly && typeof request.objects !== "string" ? { named: { uids: request.objects } } : "whole";
}

/** What an act does to each image. */
function stepsOfWork(work: BatchWork, inverses: ReadonlyMap<number, Step[] | null>, meant: ObjectTest): Steps {
  switch (work.kind) {
    case "undo":
      return (_, image) => inverses.get(image) ?? null;
    case "deal": {
      const dealt = new Map(
        splitNames.flatMap((split) => {
          const step: Step[] = [{ do: "set-split", split }];
          return work.splits[split].map((id) => [id, { split, step }] as const);
        }),
      );
      return ({ labels }, image) => {
        const to = dealt.get(image);
        return to === undefined || labels.split === to.split ? nothingToDo : to.step;
      };
    }
    case "request":
      return stepsOfRequest(work.request, meant);
  }
}

const nothingToDo: readonly Step[] = [];

/** What a request does to each image; where it looks at no objects, the very same to images that share their labels. */
function stepsOfRequest(request: LabelRequest, meant: ObjectTest): Steps {
  if (looksAtObjects(request))
    return ({ labels, size }) => requestSteps(request, labels, (object) => meant(object, size));
  const stepsFor = onceEach((labels: Labels) => requestSteps(request, labels, () => true));
  return ({ labels }) => stepsFor(labels);
}

/** Works off the next batch; true where it was the last one. */
export async function runBatch(tx: Transaction, actId: number): Promise<{ ended: boolean; act: Act }> {
  const [before] = await tx.select().from(acts).where(eq(acts.id, actId));
  if (!before) throw new Error("the act is gone");
  const revision = await changed(tx, before.collectionId, "stock", "classes", "shelf", "deliveries");
  const [act] = await tx.select().from(acts).where(eq(acts.id, actId)).for("update");
  if (!act || act.status !== "running") return { ended: true, act: act ?? before };
  const work = batchesOf(act);
  const from = imagesOf(act, work);
  const id = work.kind === "undo" ? sql`i.image_id` : sql`i.id`;
  const ids = (await rowsOf(tx, idSchema, sql`select ${id} as id ${from} order by ${id} limit ${batchSize}`)).map(
    (row) => row.id,
  );
  const inverses =
    work.kind === "undo" ? await undoSteps(tx, act.undoes as number, ids) : new Map<number, Step[] | null>();
  const meant = await objectsMeant(tx, act, work);
  const stepsOf = stepsOfWork(work, inverses, meant);
  const objects =
    work.kind === "request"
      ? readingOf(work.request)
      : readingFor([...inverses.values()].flatMap((steps) => steps ?? []));
  const within = { act: act.id, collection: act.collectionId, revision };
  const { changed: images, left } = await changeLabels(tx, within, ids, stepsOf, { objects });
  const ended = ids.length < batchSize;
  const sums = { images: act.images + images, left: act.left + left, reached: ids.at(-1) ?? act.reached };
  const [after] = await tx
    .update(acts)
    .set({ ...sums, ...(ended ? { status: "done" as const, text: await textOf(tx, act, work, sums) } : {}) })
    .where(eq(acts.id, act.id))
    .returning();
  if (!ended) return { ended, act: after as Act };
  await finishAct(tx, after as Act);
  // What changed nothing is no part of the history.
  const mayBeEmpty = work.kind === "undo" || (work.kind === "request" && withoutImages.has(work.request.do));
  if (!mayBeEmpty && sums.images === 0) await tx.delete(acts).where(eq(acts.id, act.id));
  return { ended, act: after as Act };
}

async function textOf(
  tx: Transaction,
  act: Act,
  work: BatchWork,
  { images, left }: { images: number; left: number },
): Promise<string> {
  if (work.kind === "undo") {
    const words = (n: number) => n.toLocaleString("en-US");
    return left === 0
      ? work.text
      : `${work.text} (${words(images)} of ${words(images + left)}; ${words(left)} changed since)`;
  }
  if (work.kind === "deal") return `gave ${imagesText(images)} the splits of the plan ${work.plan}`;
  const names = await classNamesById(tx, act.collectionId);
  return requestText(work.request, images, (id) => names.get(id) ?? "a class that is gone");
}

/** Makes the act that takes another one back, or does again what an act has taken back; it is to be worked off. */
export async function insertUndo(tx: Transaction, of: Act, actor: string): Promise<Act> {
  const kind = of.kind === "undo" ? "redo" : "undo";
  const what = of.text.replace(/^(took back|did again): /, "");
  const text = `${kind === "undo" ? "took back" : "did again"}: ${what}`;
  const request = { kind: "undo", text } satisfies ActWork;
  const values = { collectionId: of.collectionId, kind, text, actor, request, undoes: of.id };
  const [act] = await tx.insert(acts).values(values).returning();
  return act as Act;
}

async function runAct({ job, progress, write }: JobContext): Promise<void> {
  const [act] = await db().select().from(acts).where(eq(acts.id, job.subject));
  if (!act) return;
  // Its worker was lost as it took back what it had done: it ends as it was about to.
  if (await openTakingBack(db(), act.id)) throw new Failure("act-ended", act.text);
  if (act.status !== "running") return;
  const total = act.images + act.left + (await imagesAhead(db(), act));
  for (let done = act.images + act.left; ;) {
    await progress(Math.min(done, total), total);
    const { ended, act: now } = await write((tx) => runBatch(tx, act.id));
    if (ended) return;
    done = now.images + now.left;
  }
}

/** What a worker that was lost had yet to take back of an act that ended badly; null where nothing is left. */
async function openTakingBack(on: Database, act: number): Promise<Act | null> {
  const [undo] = await on
    .select()
    .from(acts)
    .where(and(eq(acts.undoes, act), eq(acts.actor, larderActor.id), eq(acts.status, "running")));
  return undo ?? null;
}

export const actHandler: JobHandler = {
  run: runAct,
  /** An act is done whole or not at all: what was done of it is taken back. */
  async takeBack({ job, write }, sentence, stopped) {
    const undo = await write(async (tx) => {
      const [act] = await tx.select().from(acts).where(eq(acts.id, job.subject)).for("update");
      if (!act) return null;
      if (act.status !== "running") return openTakingBack(tx, act.id);
      await tx
        .update(acts)
        .set({ status: stopped ? "stopped" : "failed", text: `${act.text}: ${sentence}` })
        .where(eq(acts.id, act.id));
      await resetAct(tx, act);
      await changed(tx, act.collectionId, "stock", "deliveries");
      return act.reached > 0 ? insertUndo(tx, act, larderActor.id) : null;
    });
    if (undo) while (!(await write((tx) => runBatch(tx, undo.id))).ended);
  },
};
