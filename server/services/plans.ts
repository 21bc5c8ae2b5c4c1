import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { Failure } from "@larder/core/model/failure";
import type { Band, PlanStep } from "@larder/core/plans/flow";
import { outputsOf, relabeledLabels } from "@larder/core/plans/outputs";
import { reportUnpairedMirrors } from "@larder/core/plans/mirror-findings";
import { newPlan, planFromYaml, planSchema, planToYaml, type Plan } from "@larder/core/plans/plan";
import {
  leavesBytes,
  moveObjects,
  outputSize,
  sampleTransform,
  type ImageTransform,
} from "@larder/core/imaging/transform";
import { suitedFormat, type StockHoldings } from "@larder/core/formats/default-target";
import { shapeKinds } from "@larder/core/model/shape";
import { fitItem } from "@larder/core/formats/fit";
import { Findings, type Finding } from "@larder/core/model/finding";
import { blankItem, type LabeledObject, type Split } from "@larder/core/model/item";
import { and, asc, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { db, transaction, type Transaction } from "../db/database";
import { numberOf, rowsOf } from "../db/query";
import { plans, versions } from "../db/schema";
import { changed } from "../jobs/events";
import { render } from "../pixels/render";
import { thumbnail } from "../pixels/thumbnail";
import { settings } from "../settings";
import { ask } from "../snapshot/ask";
import { allow } from "./access";
import type { Actor } from "./actor";
import { classInfos, labeledImages } from "./building/labeled-images";
import { readSource } from "./source-bytes";

const planName = z.string().trim().min(1, "Give it a name.").max(80, "A name has 80 characters at most.");

export type PlanRow = typeof plans.$inferSelect & { lastVersion: { number: number; frozenAt: string } | null };

const builtSchema = z.object({ plan: z.coerce.number(), number: z.number(), frozen: z.coerce.date() });

export async function plansOf(actor: Actor, collectionId: number): Promise<PlanRow[]> {
  await allow(actor, "see", { collection: collectionId });
  const rows = await db().select().from(plans).where(eq(plans.collectionId, collectionId)).orderBy(asc(plans.id));
  const built = await rowsOf(
    db(),
    builtSchema,
    sql`select distinct on (plan_id) plan_id as plan, number, frozen_at as frozen from ${versions}
      where collection_id = ${collectionId} and status = 'frozen' and plan_id is not null order by plan_id, number desc`,
  );
  return rows.map((row) => {
    const last = built.find(({ plan }) => plan === row.id);
    return { ...row, lastVersion: last ? { number: last.number, frozenAt: last.frozen.toISOString() } : null };
  });
}

/** A plan with the defaults of what it does not say. Whoever calls it has asked `allow`. */
export async function planRow(id: number): Promise<typeof plans.$inferSelect> {
  const [row] = await db().select().from(plans).where(eq(plans.id, id));
  if (!row) throw new Failure("plan-missing", `There is no plan ${id}. It may have been deleted.`, 404);
  // A plan written by an older Larder gains the defaults of what it did not know.
  return { ...row, body: planSchema.parse(row.body) };
}

export async function planOf(actor: Actor, id: number): Promise<typeof plans.$inferSelect> {
  await allow(actor, "see", { plan: id });
  return planRow(id);
}

/** Makes a plan; without a name it is "Plan 2" or whatever number is free. */
export async function createPlan(
  actor: Actor,
  collectionId: number,
  input: { name?: string; body?: Plan },
): Promise<{ id: number }> {
  await allow(actor, "plan", { collection: collectionId });
  return transaction(async (tx) => {
    await changed(tx, collectionId, "plans");
    const rows = await tx.select({ name: plans.name }).from(plans).where(eq(plans.collectionId, collectionId));
    const names = new Set(rows.map(({ name }) => name));
    let name = input.name ? planName.parse(input.name) : `Plan ${names.size + 1}`;
    for (let n = names.size + 2; !input.name && names.has(name); n++) name = `Plan ${n}`;
    if (names.has(name)) throw planNameTaken(name);
    const [row] = await tx
      .insert(plans)
      .values({ collectionId, name, body: input.body ?? newPlan(suitedFormat(await stockHoldings(tx, collectionId))) })
      .returning({ id: plans.id });
    return { id: row?.id as number };
  });
}

/** What stands for a stock of any size when a format is chosen for it. */
const lookedAt = 5000;
const kindSchema = z.object({ kind: z.enum(shapeKinds) });

/** What the first images of a stock hold. */
async function stockHoldings(tx: Transaction, collection: number): Promise<StockHoldings> {
  const few = sql`select id, image_class_ids, captions, fields from images where collection_id = ${collection} and removed_at is null order by id limit ${lookedAt}`;
  const kinds = await rowsOf(
    tx,
    kindSchema,
    sql`select distinct o.shape->>'kind' as kind from (${few}) i join objects o on o.image_id = i.id`,
  );
  const [imageClasses, texts] = await Promise.all([
    numberOf(tx, sql`select count(*) as n from (${few}) i where cardinality(image_class_ids) > 0`),
    numberOf(tx, sql`select count(*) as n from (${few}) i where jsonb_array_length(captions) > 0 or fields <> '{}'`),
  ]);
  return { kinds: new Set(kinds.map(({ kind }) => kind)), imageClasses, texts };
}

const planNameTaken = (name: string) => new Failure("name-taken", `There is a plan called "${name}" already.`, 409);

/** Changes a plan's name or its steps, given as data or as YAML. */
export async function savePlan(
  actor: Actor,
  id: number,
  input: { name?: string | undefined; body?: unknown; yaml?: string | undefined },
): Promise<typeof plans.$inferSelect> {
  await allow(actor, "plan", { plan: id });
  const row = await planRow(id);
  const body =
    input.yaml !== undefined
      ? planFromYaml(input.yaml)
      : input.body !== undefined
        ? planSchema.parse(input.body)
        : row.body;
  for (const format of body.pack.formats)
    if (!packageFormats.includes(format))
      throw new Failure(
        "format-unknown",
        `A package cannot be written as "${format}". It can be: ${packageFormats.join(", ")}.`,
      );
  const name = input.name !== undefined ? planName.parse(input.name) : row.name;
  return transaction(async (tx) => {
    await changed(tx, row.collectionId, "plans");
    const [other] = await tx
      .select({ id: plans.id })
      .from(plans)
      .where(and(eq(plans.collectionId, row.collectionId), eq(plans.name, name), ne(plans.id, id)));
    if (other) throw planNameTaken(name);
    const [saved] = await tx
      .update(plans)
      .set({ body, name, updatedAt: new Date() })
      .where(eq(plans.id, id))
      .returning();
    return saved as typeof plans.$inferSelect;
  });
}

export async function deletePlan(actor: Actor, id: number): Promise<void> {
  const collection = await allow(actor, "plan", { plan: id });
  await transaction(async (tx) => {
    await changed(tx, collection, "plans");
    await tx.delete(plans).where(eq(plans.id, id));
  });
}

export type PlanFlow = {
  steps: { step: PlanStep; bands: Band[] }[];
  emptySplits: Split[];
  kept: Record<Split, number>;
  unchanged: number;
  classes: { name: string; images: number; objects: number }[];
  yaml: string;
  nextVersion: number;
};

/** What the plan comes to, counted on the stock as it is now; nothing is built. */
export async function planFlow(actor: Actor, collectionId: number, body: Plan): Promise<PlanFlow> {
  await allow(actor, "see", { collection: collectionId });
  const [{ steps, emptySplits, kept, unchanged, classes }, nextVersion] = await Promise.all([
    ask("flow", collectionId, body),
    numberOf(
      db(),
      sql`select coalesce(max(number), 0) + 1 as n from ${versions} where collection_id = ${collectionId}`,
    ),
  ]);
  return {
    steps,
    emptySplits,
    kept,
    unchanged,
    classes: classes.map(({ name, images, objects }) => ({ name, images, objects })),
    yaml: planToYaml(body),
    nextVersion,
  };
}

/** `exact` is false where only some of the images were looked at: for formats that are not chosen. */
export type ForeseenLosses = { format: string; exact: boolean; findings: Finding[] };

/** Of formats that are not chosen, so many images stand for all. */
const sampled = 40;

/**
 * What each format will lose of this data set, before anything is written: of the plan's own formats counted over every
 * image that goes out, copies among them; of the others as a few images show it.
 */
export async function foreseenLosses(actor: Actor, collectionId: number, body: Plan): Promise<ForeseenLosses[]> {
  await allow(actor, "see", { collection: collectionId });
  const { assigned, objects } = await ask("assigned", collectionId, body);
  const infos = await classInfos(db(), collectionId, body);
  const reports = packageFormats.map((name) => {
    const format = formatNamed(name);
    const report = new Findings();
    reportUnpairedMirrors(body, infos, report);
    const options = format.surveyed?.({ objects, imageClasses: 0 }, {}) ?? {};
    return { format, options, report, exact: body.pack.formats.includes(name) };
  });
  let looked = 0;
  for await (const image of labeledImages(db(), collectionId)) {
    const split = assigned.get(image.sha256);
    if (!split) continue;
    const size = { width: image.width, height: image.height };
    const { name, captions, fields } = image;
    for (const output of outputsOf({ ...image, key: image.sha256, size }, body, split, infos)) {
      const item = { ...blankItem(name), split, captions, fields, ...output };
      for (const { format, options, report, exact } of reports)
        if (exact || looked < sampled) fitItem(item, format, options, report);
    }
    looked++;
    if (looked >= sampled && body.pack.formats.length === 0) break;
  }
  return reports.map(({ format, report, exact }) => ({ format: format.name, exact, findings: report.list() }));
}

export type Sample = {
  copy: number;
  width: number;
  height: number;
  words: string;
  objects: LabeledObject[];
  picture: string;
};

function wordsFor(transform: ImageTransform, copy: number, size: { width: number; height: number }): string {
  if (copy === 0 && leavesBytes(transform)) return "as it is";
  const words = [
    ...(transform.flipSideways ? ["flipped"] : []),
    ...(transform.resize ? [`${size.width} × ${size.height}`] : []),
  ];
  return words.length > 0 ? words.join(", ") : "unchanged";
}

/**
 * One of the plan's training images before and after, with moved labels: the evidence beside the controls. `turn`
 * picks another image.
 */
export async function planSamples(
  actor: Actor,
  collectionId: number,
  body: Plan,
  turn: number,
): Promise<{ name: string; before: Sample; after: Sample[] } | null> {
  await allow(actor, "see", { collection: collectionId });
  const { assigned, labeled: keys } = await ask("assigned", collectionId, body);
  const candidates = [...assigned].filter(([, split]) => split === "train").map(([key]) => key);
  const labeled = candidates.filter((key) => keys.has(key));
  const pool = labeled.length > 0 ? labeled : candidates;
  const key = pool[(turn * 7) % Math.max(1, pool.length)];
  if (!key) return null;
  for await (const image of labeledImages(db(), collectionId, [key])) {
    const bytes = await readSource(image.sha256);
    const labels = relabeledLabels(image, body);
    const infos = await classInfos(db(), collectionId, body);
    const source = { key, size: { width: image.width, height: image.height }, orientation: image.orientation };
    const sample = async (transform: ImageTransform, copy: number): Promise<Sample> => {
      const size = outputSize(source.size, transform);
      const rendered = await render(bytes, transform, image.extension);
      const small = await thumbnail(rendered, settings().limits.pixels);
      return {
        copy,
        ...size,
        words: wordsFor(transform, copy, size),
        objects: moveObjects(labels.objects, source.size, transform, infos),
        picture: `data:image/webp;base64,${Buffer.from(small).toString("base64")}`,
      };
    };
    const untouched: ImageTransform = { orientation: image.orientation, resize: null, flipSideways: false };
    const copies = Array.from({ length: Math.min(3, body.augment.copies) + 1 }, (_, copy) => copy);
    const after = await Promise.all(copies.map((copy) => sample(sampleTransform(body, source, "train", copy), copy)));
    return { name: image.name, before: { ...(await sample(untouched, 0)), words: "in stock" }, after };
  }
  return null;
}
