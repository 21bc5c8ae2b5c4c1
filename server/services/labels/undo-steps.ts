/** What it takes to take an act back on one image: its inverse, unless something changed since in the same place. */
import { collide, type Step } from "@larder/core/labels/step";
import { storedStepsSchema } from "@larder/core/labels/stored-step";
import { sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "../../db/database";
import { numberList } from "../../db/array-literal";
import { rowsOf } from "../../db/query";
import { repeatedJson } from "../../db/repeated-json";

const rowSchema = z.object({
  image: z.coerce.number(),
  act: z.coerce.number(),
  undoes: z.coerce.number().nullable(),
  steps: z.string(),
});
/** `steps`: of the act that is taken back its inverse, of later ones what they did. */
type Row = Omit<z.infer<typeof rowSchema>, "steps"> & { steps: Step[] };

/** What of the later acts on an image still stands: an act and the one that took it back cancel each other. */
function standing(later: readonly Row[]): Row[] {
  const cancelled = new Set<number>();
  for (const row of [...later].reverse()) {
    if (cancelled.has(row.act) || row.undoes === null || !later.some(({ act }) => act === row.undoes)) continue;
    cancelled.add(row.act);
    cancelled.add(row.undoes);
  }
  return later.filter(({ act }) => !cancelled.has(act));
}

const mergerSchema = z.object({ from: z.coerce.number(), into: z.coerce.number() });

/** Into which class each merged class of the act's collection went in the end. */
async function mergersOf(on: Database, act: number): Promise<Map<number, number>> {
  const rows = await rowsOf(
    on,
    mergerSchema,
    sql`select k.id as from, k.merged_into as into from classes k join acts a on a.collection_id = k.collection_id where a.id = ${act} and k.merged_into is not null`,
  );
  const direct = new Map(rows.map(({ from, into }) => [from, into]));
  const last = (id: number): number => (direct.has(id) ? last(direct.get(id) as number) : id);
  return new Map(rows.map(({ from }) => [from, last(from)]));
}

/** What comes back under a class that was merged since comes back under the one it went into. */
function underMergers(step: Step, mergers: ReadonlyMap<number, number>): Step {
  const into = (id: number) => mergers.get(id) ?? id;
  if (step.do === "set-class" || step.do === "add-class") return { ...step, class: into(step.class) };
  if (step.do === "add-object") return { ...step, object: { ...step.object, class: into(step.object.class) } };
  return step;
}

/**
 * What an act did to some images, ascending, and what came after it there. The first and the last image are said, too:
 * of an act that it has no numbers of yet the planner goes through all images otherwise, batch by batch.
 */
export const stepsSince = (act: number, images: readonly number[]): SQL =>
  sql`select s.image_id as image, s.act_id as act, a.undoes, (case when s.act_id = ${act} then s.inverse else s.steps end)::text as steps
    from label_steps own join label_steps s on s.image_id = own.image_id and s.revision_before >= own.revision_before join acts a on a.id = s.act_id
    where own.act_id = ${act} and own.image_id between ${images[0] ?? 0} and ${images.at(-1) ?? 0} and own.image_id = any(${numberList(images)})
    order by s.image_id, s.revision_before, s.act_id`;

/** For each of these images, ascending, that the act changed: the steps that take it back; null where it changed since. */
export async function undoSteps(
  on: Database,
  act: number,
  images: readonly number[],
): Promise<Map<number, Step[] | null>> {
  const rows = await rowsOf(on, rowSchema, stepsSince(act, images));
  const mergers = await mergersOf(on, act);
  const underAll = (steps: Step[]) => (mergers.size === 0 ? steps : steps.map((step) => underMergers(step, mergers)));
  const byImage = new Map<number, Row[]>();
  const read = repeatedJson(storedStepsSchema);
  for (const { steps, ...row } of rows)
    byImage.set(row.image, [...(byImage.get(row.image) ?? []), { ...row, steps: read(steps) }]);
  const result = new Map<number, Step[] | null>();
  for (const [image, [first, ...later]] of byImage) {
    if (!first || first.act !== act) continue;
    const since = standing(later).flatMap(({ steps }) => steps);
    result.set(image, collide(first.steps, since) ? null : underAll(first.steps));
  }
  return result;
}
