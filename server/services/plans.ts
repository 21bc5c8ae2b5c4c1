import { formatNamed, packageFormats } from "@larder/core/formats/registry";
import { Failure } from "@larder/core/model/failure";
import { runFlow, type Band, type PlanStep } from "@larder/core/plans/flow";
import { relabeledLabels } from "@larder/core/plans/outputs";
import { newPlan, planFromYaml, planSchema, planToYaml, type Plan } from "@larder/core/plans/plan";
import {
  leavesBytes,
  moveObjects,
  outputSize,
  sampleTransform,
  type ImageTransform,
} from "@larder/core/imaging/transform";
import { fitItem } from "@larder/core/formats/fit";
import { Findings, type Finding } from "@larder/core/model/finding";
import { blankItem, type LabeledObject, type Split } from "@larder/core/model/item";
import { and, asc, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { plans, versions } from "../db/schema";
import { announce } from "../jobs/events";
import { render } from "../pixels/render";
import { thumbnail } from "../pixels/thumbnail";
import { settings } from "../settings";
import { mustEdit, type Actor } from "./actor";
import { classInfos, labeledImages } from "./building/labeled-images";
import { readSource } from "./source-bytes";
import { stockRows } from "./stock-rows";

const planName = z.string().trim().min(1, "Give it a name.").max(80, "A name has 80 characters at most.");

export type PlanRow = typeof plans.$inferSelect & { lastVersion: { number: number; frozenAt: string } | null };

export async function plansOf(_actor: Actor, collectionId: number): Promise<PlanRow[]> {
  const rows = await db().select().from(plans).where(eq(plans.collectionId, collectionId)).orderBy(asc(plans.id));
  const { rows: built } = await db().execute<{ plan_id: number; number: number; frozen_at: string }>(
    sql`select distinct on (plan_id) plan_id::int, number, frozen_at from ${versions} where collection_id = ${collectionId} and status = 'frozen' and plan_id is not null order by plan_id, number desc`,
  );
  return rows.map((row) => {
    const last = built.find((version) => version.plan_id === row.id);
    return {
      ...row,
      lastVersion: last ? { number: last.number, frozenAt: new Date(last.frozen_at).toISOString() } : null,
    };
  });
}

export async function planRow(id: number): Promise<typeof plans.$inferSelect> {
  const [row] = await db().select().from(plans).where(eq(plans.id, id));
  if (!row) throw new Failure("plan-missing", `There is no plan ${id}. It may have been deleted.`, 404);
  // A plan written by an older Larder gains the defaults of what it did not know.
  return { ...row, body: planSchema.parse(row.body) };
}

/** Makes a plan; without a name it is "Plan 2" or whatever number is free. */
export async function createPlan(
  actor: Actor,
  collectionId: number,
  input: { name?: string; body?: Plan },
): Promise<{ id: number }> {
  mustEdit(actor);
  const taken = new Set((await plansOf(actor, collectionId)).map((plan) => plan.name));
  let name = input.name ? planName.parse(input.name) : `Plan ${taken.size + 1}`;
  for (let n = taken.size + 2; !input.name && taken.has(name); n++) name = `Plan ${n}`;
  if (taken.has(name)) throw new Failure("name-taken", `There is a plan called "${name}" already.`, 409);
  const [row] = await db()
    .insert(plans)
    .values({ collectionId, name, body: input.body ?? newPlan() })
    .returning({ id: plans.id });
  await announce({ kind: "collection", collection: collectionId });
  return { id: row?.id as number };
}

/** Changes a plan's name or its steps, given as data or as YAML. */
export async function savePlan(
  actor: Actor,
  id: number,
  input: { name?: string | undefined; body?: unknown; yaml?: string | undefined },
): Promise<typeof plans.$inferSelect> {
  mustEdit(actor);
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
  const [other] = await db()
    .select({ id: plans.id })
    .from(plans)
    .where(and(eq(plans.collectionId, row.collectionId), eq(plans.name, name), ne(plans.id, id)));
  if (other) throw new Failure("name-taken", `There is a plan called "${name}" already.`, 409);
  const [saved] = await db()
    .update(plans)
    .set({ body, name, updatedAt: new Date() })
    .where(eq(plans.id, id))
    .returning();
  await announce({ kind: "collection", collection: row.collectionId });
  return saved as typeof plans.$inferSelect;
}

export async function deletePlan(actor: Actor, id: number): Promise<void> {
  mustEdit(actor);
  const row = await planRow(id);
  await db().delete(plans).where(eq(plans.id, id));
  await announce({ kind: "collection", collection: row.collectionId });
}

export type PlanFlow = {
  steps: { step: PlanStep; bands: Band[] }[];
  emptySplits: Split[];
  classes: { name: string; images: number; objects: number }[];
  yaml: string;
  nextVersion: number;
};

/** What the plan comes to, counted on the stock as it is now; nothing is built. */
export async function planFlow(_actor: Actor, collectionId: number, body: Plan): Promise<PlanFlow> {
  const { rows, names } = await stockRows(collectionId);
  const { steps, emptySplits } = runFlow(rows, body);
  const [next] = await db()
    .select({ n: sql<number>`coalesce(max(${versions.number}), 0)::int + 1` })
    .from(versions)
    .where(eq(versions.collectionId, collectionId));
  return {
    steps,
    emptySplits,
    classes: names.map((name) => ({
      name,
      images: rows.filter((row) => row.objects.has(name) || row.classes.includes(name)).length,
      objects: rows.reduce((sum, row) => sum + (row.objects.get(name) ?? 0) + (row.classes.includes(name) ? 1 : 0), 0),
    })),
    yaml: planToYaml(body),
    nextVersion: next?.n ?? 1,
  };
}

/** What each of the plan's formats will lose of this data set, before anything is written. */
export async function foreseenLosses(
  _actor: Actor,
  collectionId: number,
  body: Plan,
): Promise<{ format: string; findings: Finding[] }[]> {
  const { rows } = await stockRows(collectionId);
  const { assigned } = runFlow(rows, body);
  const objects = rows.reduce(
    (sum, row) => sum + (assigned.has(row.key) ? [...row.objects.values()].reduce((own, count) => own + count, 0) : 0),
    0,
  );
  const reports = body.pack.formats.map((name) => {
    const format = formatNamed(name);
    return { format, options: format.surveyed?.({ objects, imageClasses: 0 }, {}) ?? {}, report: new Findings() };
  });
  for await (const image of labeledImages(collectionId)) {
    const split = assigned.get(image.sha256);
    if (!split) continue;
    const relabeled = relabeledLabels(image, body);
    const item = {
      ...blankItem(image.name),
      split,
      state: image.state,
      ...relabeled,
      captions: image.captions,
      fields: image.fields,
      size: { width: image.width, height: image.height },
    };
    for (const { format, options, report } of reports) fitItem(item, format, options, report);
  }
  return reports.map(({ format, report }) => ({ format: format.name, findings: report.list() }));
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
  _actor: Actor,
  collectionId: number,
  body: Plan,
  turn: number,
): Promise<{ name: string; before: Sample; after: Sample[] } | null> {
  const { rows } = await stockRows(collectionId);
  const { assigned } = runFlow(rows, body);
  const candidates = [...assigned].filter(([, split]) => split === "train").map(([key]) => key);
  const labeled = candidates.filter((key) => rows.some((row) => row.key === key && row.state === "labeled"));
  const pool = labeled.length > 0 ? labeled : candidates;
  const key = pool[(turn * 7) % Math.max(1, pool.length)];
  if (!key) return null;
  for await (const image of labeledImages(collectionId, [key])) {
    const bytes = await readSource(image.sha256);
    const labels = relabeledLabels(image, body);
    const infos = await classInfos(collectionId, body);
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
