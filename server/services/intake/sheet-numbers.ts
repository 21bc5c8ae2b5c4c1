/** The live numbers of an intake sheet: counts of its pictures, what was found in them, where its classes would go. */
import { Findings, type Finding } from "@larder/core/model/finding";
import { lookAlikes } from "@larder/core/relabel/look-alike";
import { ownEntry } from "@larder/core/model/own-entry";
import { proposeMatches, type Proposal } from "@larder/core/relabel/propose";
import { and, asc, eq, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { classes, intakeSources } from "../../db/schema";
import { numberOf, rowOf, rowsOf } from "../../db/query";
import { allow } from "../access";
import type { Actor } from "../actor";
import type { Delivery } from "../../db/schema";
import { deliveryRow } from "../deliveries";
import { choicesOf } from "./open-delivery";

import { nearCopy, state, worthALook } from "./staged-conditions";

export type SheetNumbers = {
  all: number;
  labeled: number;
  unlabeled: number;
  empty: number;
  withFindings: number;
  inStock: number;
  nearCopies: number;
  /** Pictures whose bytes stand in the delivery more than once, every one of them. */
  repeats: number;
  unreadable: number;
  leftOut: number;
  /** Looked into so far. */
  looked: number;
  /**
   * How many pictures taking in would put into stock, and how many there would get labels, as things are decided now.
   */
  toTakeIn: number;
  toRelabel: number;
  findings: Finding[];
  matches: (Proposal & { remembered: boolean })[];
  /** The delivery from the same source whose decisions are proposed. */
  rememberedFrom: string | null;
  /** Where the next new class will stand in the collection's list: its colour follows from that. */
  nextPosition: number;
  /** Folders that hold pictures, the fullest first, as far as they are kept. */
  folders: { folder: string; images: number }[];
};

const foldersKept = 40;
const folderSchema = z.object({ folder: z.string(), images: z.number() });

const pictureFindingSchema = z.object({ code: z.string(), count: z.number(), examples: z.array(z.string()) });

/** Findings of single pictures as looking into them shows them, over those that annotations alone told of. */
async function findingsNow(delivery: Delivery, looked: number): Promise<Finding[]> {
  const report = new Findings();
  const foreseen = delivery.sheet?.findings ?? [];
  if (looked === 0) return foreseen;
  const rows = await rowsOf(
    db(),
    pictureFindingSchema,
    sql`select f->>'code' as code, sum((f->>'count')::int)::int as count, (array_agg(path order by ordinal))[1:3] as examples
      from delivery_items, jsonb_array_elements(findings) f where delivery_id = ${delivery.id} group by 1`,
  );
  const ofPictures = new Set(rows.map((row) => row.code));
  report.merge(foreseen.filter(({ code }) => !ofPictures.has(code)));
  for (const row of rows) {
    const foretold = foreseen.find(({ code }) => code === row.code);
    // What the reader itself dropped belongs to no picture; the larger number is the whole.
    report.merge([foretold && foretold.count > row.count ? foretold : { ...row, path: row.examples[0] ?? "" }]);
  }
  return report.list();
}

const whole = z.number();
const countsSchema = z.object({
  all: whole,
  labeled: whole,
  unlabeled: whole,
  empty: whole,
  withFindings: whole,
  inStock: whole,
  nearCopies: whole,
  repeats: whole,
  again: whole,
  unreadable: whole,
  leftOut: whole,
  looked: whole,
  takable: whole,
  replaceable: whole,
  addable: whole,
  fillable: whole,
});
type Counted = z.infer<typeof countsSchema>;

async function counted(delivery: Delivery): Promise<Counted> {
  const row = await rowOf(
    db(),
    countsSchema,
    sql`
    with rows as (
      select ordinal, sha256, ready, left_out, unreadable, ${state} as now, ${worthALook} as noteworthy, ${nearCopy} as near from delivery_items where delivery_id = ${delivery.id}
    ), met as (
      select r.*, i.id as there, i.state as state_there,
        case when r.sha256 is null then 1 else count(*) over (partition by r.sha256) end as times,
        row_number() over (partition by coalesce(r.sha256, r.ordinal::text) order by r.ordinal) as nth_of_all, row_number() over (partition by coalesce(r.sha256, r.ordinal::text), r.left_out order by r.ordinal) as nth
      from rows r left join images i on i.collection_id = ${delivery.collectionId} and i.sha256 = r.sha256 and i.removed_at is null
    )
    select count(*)::int as all,
      count(*) filter (where now = 'labeled' and unreadable is null)::int as labeled,
      count(*) filter (where now = 'unlabeled' and unreadable is null)::int as unlabeled,
      count(*) filter (where now = 'empty' and unreadable is null)::int as empty,
      count(*) filter (where noteworthy)::int as "withFindings",
      count(*) filter (where there is not null)::int as "inStock",
      count(*) filter (where near)::int as "nearCopies",
      count(*) filter (where times > 1)::int as repeats,
      count(*) filter (where times > 1 and nth_of_all > 1)::int as again,
      count(*) filter (where unreadable is not null)::int as unreadable,
      count(*) filter (where left_out)::int as "leftOut",
      count(*) filter (where ready)::int as looked,
      count(*) filter (where not left_out and unreadable is null and there is null and nth = 1)::int as takable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now <> 'unlabeled')::int as replaceable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now = 'labeled')::int as addable,
      count(*) filter (where not left_out and there is not null and nth = 1 and now <> 'unlabeled' and state_there = 'unlabeled')::int as fillable
    from met`,
  );
  return row as Counted;
}

/** The live numbers of an intake sheet, from what is staged and decided. */
export async function sheetNumbers(actor: Actor, id: number): Promise<SheetNumbers> {
  await allow(actor, "see", { delivery: id });
  const delivery = await deliveryRow(id);
  const { takable, replaceable, addable, fillable, again, ...counts } = await counted(delivery);
  const { sameBytes: mode } = choicesOf(delivery);
  const known = await db()
    .select({ name: classes.name })
    .from(classes)
    .where(and(eq(classes.collectionId, delivery.collectionId), isNull(classes.mergedInto), isNull(classes.removedAt)))
    .orderBy(asc(classes.position), asc(classes.id));
  const [source] =
    delivery.sourceId === null
      ? []
      : await db().select().from(intakeSources).where(eq(intakeSources.id, delivery.sourceId));
  const matches = proposeMatches(
    (delivery.sheet?.classes ?? []).map(({ name }) => name),
    known.map(({ name }) => name),
  );
  const decided = choicesOf(delivery).classes;
  const undecided = matches.filter(
    ({ name, reason }) => reason !== "same" && reason !== "new" && ownEntry(decided, name) === null,
  );
  const report = new Findings();
  report.merge((await findingsNow(delivery, counts.looked)).filter(({ code }) => code !== "class-similar"));
  for (const { name, to } of undecided) report.add("class-similar", "", `"${name}" and "${to}"`);
  const waiting = new Set(undecided.map(({ name }) => name));
  for (const [a, b] of lookAlikes(matches.map(({ name }) => name)))
    if (!waiting.has(a) && !waiting.has(b) && ownEntry(decided, a) === null && ownEntry(decided, b) === null)
      report.add("class-similar", "", `"${a}" and "${b}"`);
  if (again > 0) report.add("copy-in-delivery", "", undefined, again);
  if (counts.nearCopies > 0) report.add("near-copy", "", undefined, counts.nearCopies);
  const folders = await rowsOf(
    db(),
    folderSchema,
    sql`select regexp_replace(path, '/[^/]*$', '') as folder, count(*)::int as images from delivery_items
      where delivery_id = ${id} and path like '%/%' group by 1 order by 2 desc, 1 limit ${foldersKept}`,
  );
  const nextPosition = await numberOf(
    db(),
    sql`select coalesce(max(position), -1) + 1 as n from classes where collection_id = ${delivery.collectionId}`,
  );
  return {
    ...counts,
    folders,
    nextPosition,
    toTakeIn: takable,
    toRelabel: mode === "replace" ? replaceable : mode === "add" ? addable : mode === "fill" ? fillable : 0,
    findings: report.list(),
    matches: matches.map((match) => ({ ...match, remembered: ownEntry(source?.classes, match.name) !== null })),
    rememberedFrom: source && source.lastName !== "" ? source.lastName : null,
  };
}
