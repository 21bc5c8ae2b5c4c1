/** Acts: what people do to many images at once, to single images step by step, and what takes it back. */
import { requestSchema, type LabelRequest } from "@larder/core/labels/request";
import { stepsText } from "@larder/core/labels/describe";
import { storedStepsSchema } from "@larder/core/labels/stored-step";
import { Failure } from "@larder/core/model/failure";
import type { Split } from "@larder/core/model/item";
import { selectionSchema } from "@larder/core/selection/chosen";
import { and, desc, eq, isNull, lt, ne, sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { db, transaction, type Transaction } from "../db/database";
import { rowsOf } from "../db/query";
import { acts, classes, type Act } from "../db/schema";
import { imagesWith, objectTest } from "@larder/core/labels/object-conditions";
import { changed, lockCollection } from "../jobs/events";
import { addJob } from "../jobs/queue";
import { allow } from "./access";
import type { Actor } from "./actor";
import { classNamesById } from "./labels/class-names";
import { beginUndo } from "./labels/act-effects";
import type { ActWork } from "./labels/act-work";
import { attributesFor } from "./stock/known-attributes";
import { imagesAhead, insertUndo, runBatch } from "./labels/run-act";

/** Acts on at most so many images are done while the person waits; larger ones are jobs. */
const doneAtOnce = 500;

/** What became of a wish: done, with the numbers, or a job that does it. */
export type ActOutcome = { act: number; text: string; images: number; left: number; job: string | null };

export const actSchema = z.object({
  ...selectionSchema.shape,
  act: requestSchema,
  /** How many images the person was told of; where that is not true any more, nothing is done. */
  expected: z.number().int().min(0).optional(),
});

/** Starts working an act off, in this very transaction where it is small. */
async function begin(tx: Transaction, actor: Actor, act: Act): Promise<ActOutcome> {
  if ((await imagesAhead(tx, act)) <= doneAtOnce) {
    const { act: done } = await runBatch(tx, act.id);
    return { act: act.id, text: done.text, images: done.images, left: done.left, job: null };
  }
  await changed(tx, act.collectionId, "deliveries");
  const title = act.text[0]?.toUpperCase() + act.text.slice(1);
  const job = await addJob(actor, { kind: "act", subject: act.id, collectionId: act.collectionId, title }, tx);
  return { act: act.id, text: act.text, images: 0, left: 0, job };
}

/** While an act is worked off its words say what is being done; its last batch puts the numbers in. */
const underWay: Record<LabelRequest["do"], string> = {
  move: "moving images between splits",
  pin: "pinning images",
  tag: "tagging images",
  untag: "taking a tag off images",
  "mark-empty": "marking images as empty",
  "mark-unlabeled": "marking images as unlabeled",
  "replace-class": "giving images another class",
  "set-classes": "setting the classes of images",
  reclass: "giving objects another class",
  "remove-objects": "removing objects",
  "set-object-attribute": "setting an attribute of objects",
  "set-attribute": "setting an attribute of images",
  "rename-attribute": "renaming an attribute",
  "add-class": "giving images a class",
  "remove-class": "taking a class off images",
  merge: "merging classes",
  "drop-class": "removing a class",
  remove: "putting images into the bin",
  restore: "taking images out of the bin",
};

async function checkClasses(tx: Transaction, collection: number, request: LabelRequest): Promise<void> {
  const wanted =
    "class" in request
      ? [request.class]
      : "from" in request && request.do !== "rename-attribute"
        ? [request.from, request.into]
        : request.do === "set-classes"
          ? request.classes
          : [];
  if (request.do === "merge" && request.from === request.into)
    throw new Failure("same-class", "A class cannot be merged into itself.", 422);
  for (const id of wanted) {
    const [known] = await tx
      .select({ id: classes.id })
      .from(classes)
      .where(and(eq(classes.id, id), eq(classes.collectionId, collection), isNull(classes.mergedInto)));
    if (!known) throw new Failure("class-missing", "There is no such class in this collection any more.", 404);
  }
}

const words = (n: number) => n.toLocaleString("en-US");
const changedNumber = (n: number) => (n === 1 ? "One image is" : `${words(n)} images are`);

/** Does the same to every image of a selection: one act, undone as one. */
export async function act(actor: Actor, collection: number, input: z.input<typeof actSchema>): Promise<ActOutcome> {
  await allow(actor, "label", { collection });
  const { act: request, expected, ...selection } = actSchema.parse(input);
  const objects = "objects" in request && typeof request.objects === "string" ? request.objects : "";
  const attributes = await attributesFor(collection, selection.where, ...(objects === "" ? [] : [imagesWith(objects)]));
  if (objects !== "") objectTest(objects, { image: attributes, object: attributes }, () => undefined);
  return transaction(async (tx) => {
    await checkClasses(tx, collection, request);
    const [row] = await tx
      .insert(acts)
      .values({
        collectionId: collection,
        kind: request.do,
        text: underWay[request.do],
        actor: actor.id,
        request: { kind: "request", request, selection, attributes } satisfies ActWork,
      })
      .returning();
    const ahead = await imagesAhead(tx, row as Act);
    if (expected !== undefined && expected !== ahead)
      throw new Failure("selection-changed", `${changedNumber(ahead)} meant now, not ${words(expected)}.`, 409, {
        images: ahead,
      });
    return begin(tx, actor, row as Act);
  });
}

/**
 * Gives every image that a plan keeps the split that the plan deals it to, as the stock's own: one act, undone as one.
 * Images that leave the plan keep theirs. `splits` holds images' ids. Whoever calls it has asked `allow`.
 */
export async function dealInto(
  actor: Actor,
  collection: number,
  { plan, splits }: { plan: string; splits: Record<Split, number[]> },
): Promise<ActOutcome> {
  return transaction(async (tx) => {
    const [row] = await tx
      .insert(acts)
      .values({
        collectionId: collection,
        kind: "deal",
        text: "dealing images into splits",
        actor: actor.id,
        request: { kind: "deal", plan, splits } satisfies ActWork,
      })
      .returning();
    return begin(tx, actor, row as Act);
  });
}

/** Takes an act back: on each image its inverse, but for images that changed since in the same place. */
export async function undoAct(actor: Actor, id: number): Promise<ActOutcome> {
  const collection = await allow(actor, "label", { act: id });
  return transaction(async (tx) => {
    await lockCollection(tx, collection);
    return startUndo(tx, actor, id);
  });
}

/** As `undoAct`, within a transaction of the caller's that holds the collection. */
export async function startUndo(tx: Transaction, actor: Actor, id: number): Promise<ActOutcome> {
  const [of] = await tx.select().from(acts).where(eq(acts.id, id)).for("update");
  if (!of) throw new Failure("act-missing", "This is not in the history any more.", 404);
  if (of.status === "running")
    throw new Failure("act-busy", "This is still being done. Stop it, or wait for its end.", 409);
  if (of.status !== "done")
    throw new Failure("act-not-done", "This was not carried out; there is nothing to undo.", 409);
  const [under] = await tx
    .select({ id: acts.id })
    .from(acts)
    .where(and(eq(acts.undoes, of.id), eq(acts.status, "running")));
  if (of.undoneBy !== null || under) throw new Failure("act-undone", "This is undone already.", 409);
  await beginUndo(tx, of);
  return begin(tx, actor, await insertUndo(tx, of, actor.id));
}

export const undoLastSchema = z.object({
  again: z.boolean().default(false),
  /** Whether a delivery may be what is undone: it takes all its images along, so that it is asked about first. */
  deliveries: z.boolean().default(false),
});

/**
 * Undoes what the actor did last in a collection, or, with `again`, does again what was undone last. Throws a Failure
 * `undo-delivery` where that is a whole delivery and nobody said that it may be.
 */
export async function undoLast(
  actor: Actor,
  collection: number,
  wish: z.input<typeof undoLastSchema>,
): Promise<ActOutcome> {
  const input = undoLastSchema.parse(wish);
  await allow(actor, "label", { collection });
  return transaction(async (tx) => {
    await lockCollection(tx, collection);
    const [last] = await tx
      .select({ id: acts.id, via: acts.via, text: acts.text })
      .from(acts)
      .where(
        and(
          eq(acts.collectionId, collection),
          eq(acts.actor, actor.id),
          eq(acts.status, "done"),
          isNull(acts.undoneBy),
          input.again ? eq(acts.kind, "undo") : ne(acts.kind, "undo"),
          input.again ? sql`${acts.id} > coalesce((${lastDone(collection, actor)}), 0)` : undefined,
        ),
      )
      .orderBy(desc(acts.id))
      .limit(1);
    if (!last)
      throw new Failure(
        "nothing-to-undo",
        input.again ? "There is nothing to do again." : "There is nothing of yours to undo in this collection.",
        409,
      );
    if (last.via?.kind === "delivery" && !input.again && !input.deliveries)
      throw new Failure("undo-delivery", `What you did last here: ${last.text}. Is all of it to go?`, 409);
    return startUndo(tx, actor, last.id);
  });
}

/** What the actor last did anew: what was undone before it is not done again. */
const lastDone = (collection: number, actor: Actor): SQL =>
  sql`select max(a.id) from acts a where a.collection_id = ${collection} and a.actor = ${actor.id} and a.undoes is null`;

export type HistoryEntry = Pick<
  Act,
  "id" | "kind" | "text" | "actor" | "via" | "status" | "images" | "left" | "undoes"
> & {
  at: string;
  undone: boolean;
  undoable: boolean;
};

export const historySchema = z.object({
  actor: z.string().optional(),
  kind: z.string().optional(),
  before: z.number().int().optional(),
  limit: z.number().int().min(1).max(1000).default(100),
});

function entryOf(row: Act): HistoryEntry {
  const { id, kind, text, actor, via, status, images: n, left, undoes } = row;
  const undone = row.undoneBy !== null;
  return {
    ...{ id, kind, text, actor, via, status, images: n, left, undoes },
    at: row.createdAt.toISOString(),
    undone,
    undoable: status === "done" && !undone && n > 0,
  };
}

/** What was done in a collection, newest first, a page at a time; of one person or one kind where asked. */
export async function history(
  actor: Actor,
  collection: number,
  input: z.input<typeof historySchema>,
): Promise<{ entries: HistoryEntry[]; next: number | null }> {
  await allow(actor, "see", { collection });
  const { actor: by, kind, before, limit } = historySchema.parse(input);
  const rows = await db()
    .select()
    .from(acts)
    .where(
      and(
        eq(acts.collectionId, collection),
        by ? eq(acts.actor, by) : undefined,
        kind ? eq(acts.kind, kind) : undefined,
        before ? lt(acts.id, before) : undefined,
      ),
    )
    .orderBy(desc(acts.id))
    .limit(limit + 1);
  return {
    entries: rows.slice(0, limit).map(entryOf),
    next: rows.length > limit ? (rows[limit - 1]?.id ?? null) : null,
  };
}

/** The persons and the kinds of act that a collection's history can be filtered by. */
export async function historyFacets(actor: Actor, collection: number): Promise<{ actors: string[]; kinds: string[] }> {
  await allow(actor, "see", { collection });
  const of = (column: typeof acts.actor | typeof acts.kind) =>
    db().selectDistinct({ name: column }).from(acts).where(eq(acts.collectionId, collection)).orderBy(column);
  const [actors, kinds] = await Promise.all([of(acts.actor), of(acts.kind)]);
  return { actors: actors.map(({ name }) => name), kinds: kinds.map(({ name }) => name) };
}

/** The history of a collection as CSV, all of it, newest first. */
export async function* historyLines(
  actor: Actor,
  collection: number,
  filter: Pick<z.input<typeof historySchema>, "actor" | "kind">,
): AsyncIterable<string> {
  const { stringify } = await import("csv-stringify/sync");
  const line = (cells: readonly (string | number)[]) => stringify([cells], { escape_formulas: true });
  await allow(actor, "see", { collection });
  yield line(["when", "who", "through", "kind", "what", "images", "left", "undone"]);
  for (let before: number | undefined; ;) {
    const page = await history(actor, collection, { ...filter, ...(before ? { before } : {}), limit: 1000 });
    for (const entry of page.entries) {
      const through =
        entry.via === null ? "" : `${entry.via.kind} ${"id" in entry.via ? entry.via.id : entry.via.name}`;
      yield line([
        entry.at,
        entry.actor,
        through,
        entry.kind,
        entry.text,
        entry.images,
        entry.left,
        entry.undone ? "yes" : "no",
      ]);
    }
    if (page.next === null) return;
    before = page.next;
  }
}

const stepRowSchema = z.object({
  act: z.coerce.number(),
  actor: z.string(),
  at: z.string(),
  text: z.string(),
  revision: z.number(),
  steps: storedStepsSchema,
});

export type ImageHistoryEntry = {
  act: number;
  actor: string;
  at: string;
  act_text: string;
  revision: number;
  text: string;
};

/** What was done to one image, newest first. */
export async function imageHistory(actor: Actor, image: number): Promise<ImageHistoryEntry[]> {
  const collection = await allow(actor, "see", { image });
  const names = await classNamesById(db(), collection);
  const rows = await rowsOf(
    db(),
    stepRowSchema,
    sql`select a.id as act, a.actor, to_char(a.created_at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"') as at, a.text, s.revision_before + 1 as revision, s.steps
      from label_steps s join acts a on a.id = s.act_id where s.image_id = ${image} order by s.revision_before desc, a.id desc limit 200`,
  );
  return rows.map(({ text, steps, ...rest }) => ({
    ...rest,
    act_text: text,
    text: stepsText(steps, (id) => names.get(id) ?? "class that is gone"),
  }));
}
