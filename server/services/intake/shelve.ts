/**
 * Turns staged rows into stock, within one transaction: classes matched, splits dealt, pictures that are there already
 * treated as was chosen.
 */
import type { IntakeChoices } from "@larder/core/intake/choices";
import { addSteps, replaceSteps, type Incoming } from "@larder/core/labels/difference";
import { unpackShapeOf } from "@larder/core/labels/stored-shape";
import { labelStates } from "@larder/core/model/item";
import { Findings, type Finding } from "@larder/core/model/finding";
import { deal } from "@larder/core/splitting/deal";
import { and, asc, eq, gt, sql } from "drizzle-orm";
import type { Transaction } from "../../db/database";
import { rowOf, rowsOf } from "../../db/query";
import { acts, deliveries, deliveryItems, intakeSources, type IntakeSheet, type StagedObject } from "../../db/schema";
import { changed } from "../../jobs/events";
import { v7 as uuidV7 } from "uuid";
import { z } from "zod";
import { ensureClasses } from "../classes/ensure-classes";
import { changeLabels } from "../labels/change-labels";
import { choicesOf } from "./open-delivery";

/**
 * Where each incoming class goes, null for the ones left out; classes that are not there are made, in the delivery's
 * order.
 */
async function matchClasses(
  tx: Transaction,
  collectionId: number,
  incoming: IntakeSheet["classes"],
  decisions: IntakeChoices["classes"],
): Promise<number[]> {
  const targets = incoming.map((info) => {
    const decision = decisions[info.name];
    return { info, to: decision === undefined ? info.name : "to" in decision ? decision.to : null };
  });
  const { ids, added } = await ensureClasses(
    tx,
    collectionId,
    targets.flatMap(({ info, to }) =>
      to === null ? [] : [{ name: to, keypoints: info.keypoints, skeleton: info.skeleton }],
    ),
  );
  const matches = targets.map(({ info, to }) => ({ name: info.name, class_id: to === null ? null : ids.get(to) }));
  await tx.execute(
    sql`create temp table incoming_classes on commit drop as select * from jsonb_to_recordset(${JSON.stringify(matches)}::jsonb) as m(name text, class_id bigint)`,
  );
  return added;
}

/**
 * The rows to shelve with where each image is already, and their labels under the collection's classes, as temporary
 * tables.
 */
async function gather(tx: Transaction, deliveryId: number, collectionId: number): Promise<void> {
  await tx.execute(sql`
    create temp table incoming on commit drop as
    select distinct on (d.sha256) d.delivery_id, d.ordinal, d.path, d.sha256, d.bytes, d.width, d.height, d.orientation, d.extension,
      d.split, d.settled_state, d.near_hash, d.taken_at, d.latitude, d.longitude, d.link,
      d.item->'classes' as classes, d.item->'captions' as captions, d.item->'fields' as fields,
      i.id as image_id, i.state as state_there, null::text as dealt
    from delivery_items d left join images i on i.collection_id = ${collectionId} and i.sha256 = d.sha256 and i.removed_at is null
    where d.delivery_id = ${deliveryId} and d.ready and not d.left_out and d.sha256 is not null
    order by d.sha256, d.ordinal`);
  await tx.execute(sql`
    create temp table incoming_objects on commit drop as
    select i.ordinal, o.nth, m.class_id, o.value from incoming i
    join delivery_items d on d.delivery_id = i.delivery_id and d.ordinal = i.ordinal
    cross join lateral jsonb_array_elements(d.objects) with ordinality as o(value, nth)
    join incoming_classes m on m.name = o.value->>'class' where m.class_id is not null`);
  await tx.execute(sql`
    create temp table incoming_labels on commit drop as
    select i.ordinal, coalesce(o.count, 0)::int as object_count, coalesce(o.counts, '{}') as class_counts, coalesce(c.ids, '{}') as image_class_ids,
      (select coalesce(array_agg(distinct x), '{}') from unnest(coalesce(o.ids, '{}') || coalesce(c.ids, '{}')) x) as class_ids,
      coalesce(o.count, 0) > 0 or c.ids is not null or jsonb_array_length(i.captions) > 0 or i.fields <> '{}' as says
    from incoming i
    left join (
      select ordinal, sum(n) as count, jsonb_object_agg(class_id::text, n) as counts, array_agg(class_id) as ids
      from (select ordinal, class_id, count(*) as n from incoming_objects group by 1, 2) n group by 1) o on o.ordinal = i.ordinal
    left join (
      select i.ordinal, array_agg(distinct m.class_id) as ids
      from incoming i cross join lateral jsonb_array_elements_text(i.classes) as k(name)
      join incoming_classes m on m.name = k.name where m.class_id is not null group by 1) c on c.ordinal = i.ordinal`);
  await tx.execute(sql`create index on incoming_objects (ordinal)`);
  await tx.execute(sql`create index on incoming_labels (ordinal)`);
  await tx.execute(sql`analyze incoming`);
  // Statistics of the labels themselves would take longer than they save.
  await tx.execute(sql`analyze incoming_objects (ordinal, class_id)`);
  await tx.execute(sql`analyze incoming_labels`);
}

const newcomerSchema = z.object({
  key: z.string(),
  counts: z.record(z.string(), z.number()),
  image: z.array(z.number()),
});

/** Settles the splits of newcomers; what is in stock stays where it is. */
async function dealSplits(tx: Transaction, choice: IntakeChoices["splits"]): Promise<void> {
  if (choice.mode === "keep") await tx.execute(sql`update incoming set dealt = split`);
  if (choice.mode === "all") await tx.execute(sql`update incoming set dealt = ${choice.split}`);
  if (choice.mode !== "deal") return;
  const rows = await rowsOf(
    tx,
    newcomerSchema,
    sql`select i.sha256 as key, l.class_counts as counts, l.image_class_ids::int[] as image
      from incoming i join incoming_labels l on l.ordinal = i.ordinal where i.image_id is null`,
  );
  const dealt = deal(
    rows.map(({ key, counts, image }) => {
      const labels = new Map(Object.entries(counts));
      for (const id of image) labels.set(String(id), (labels.get(String(id)) ?? 0) + 1);
      return { key, classes: labels };
    }),
    choice.ratio,
    choice.seed,
  );
  const assigned = JSON.stringify([...dealt].map(([sha256, split]) => ({ sha256, split })));
  await tx.execute(
    sql`update incoming i set dealt = s.split from jsonb_to_recordset(${assigned}::jsonb) as s(sha256 text, split text) where s.sha256 = i.sha256`,
  );
}

/**
 * What is said of an image once classes left out are gone: one whose every label went holds nothing that counts here.
 */
const stateAfter = sql`case when l.says then 'labeled' when i.settled_state = 'labeled' then 'empty' else i.settled_state end`;

type ShelvingAct = { act: number; revision: number };

async function insertNew(
  tx: Transaction,
  { act, revision }: ShelvingAct,
  deliveryId: number,
  collectionId: number,
  choices: IntakeChoices,
): Promise<{ images: number; objects: number }> {
  const when = (column: string) => (choices.keepWhenAndWhere ? sql.raw(`i.${column}`) : sql`null`);
  const inserted = await tx.execute(sql`
    insert into images (collection_id, delivery_id, ordinal, sha256, name, bytes, width, height, orientation, extension, split,
      state, object_count, class_ids, class_counts, image_class_ids, captions, fields, taken_at, latitude, longitude,
      near_hash, changed_revision)
    select ${collectionId}, i.delivery_id, i.ordinal, i.sha256, i.path, i.bytes, i.width, i.height, i.orientation, i.extension, i.dealt,
      ${stateAfter}, l.object_count, l.class_ids, l.class_counts, l.image_class_ids, i.captions, i.fields,
      ${when("taken_at")}, ${when("latitude")}, ${when("longitude")}, i.near_hash, ${revision}
    from incoming i join incoming_labels l on l.ordinal = i.ordinal where i.image_id is null
    order by i.ordinal`);
  const objects = await tx.execute(sql`
    insert into objects (image_id, ordinal, class_id, x, y, width, height, area, shape, mask, attributes, flags)
    select m.id, o.nth - 1, o.class_id, (o.value->'box'->>0)::float8, (o.value->'box'->>1)::float8,
      (o.value->'box'->>2)::float8, (o.value->'box'->>3)::float8, (o.value->>'area')::float8,
      (o.value->'shape') - 'runs', decode(o.value->'shape'->>'runs', 'base64'), o.value->'attributes',
      o.value - '{class,shape,attributes,box,area}'::text[]
    from images m join incoming_objects o on o.ordinal = m.ordinal
    where m.delivery_id = ${deliveryId} order by m.ordinal, o.nth`);
  // What takes an image's arrival back puts it into the bin.
  await tx.execute(sql`
    insert into label_steps (act_id, image_id, revision_before, steps, inverse)
    select ${act}::bigint, id, -1, '[{"do": "set-presence", "present": true}]', '[{"do": "set-presence", "present": false}]'
    from images where delivery_id = ${deliveryId}`);
  return { images: inserted.rowCount ?? 0, objects: objects.rowCount ?? 0 };
}

const relabelingPage = 500;
const incomingSchema = z.object({
  image: z.coerce.number(),
  ordinal: z.number(),
  state: z.enum(labelStates),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  classes: z.array(z.coerce.number()),
  objects: z.array(
    z.object({ class: z.coerce.number(), value: z.custom<StagedObject>((value) => typeof value === "object") }),
  ),
});

/** The labels of a delivery for an image that is in stock, under the collection's classes. */
function incomingLabels({ state, captions, fields, classes, objects }: z.infer<typeof incomingSchema>): Incoming {
  return {
    state,
    captions,
    fields,
    classes: [...classes].sort((a, b) => a - b),
    objects: objects.map(({ class: id, value }, order) => {
      const { box: _, area: __, ...object } = value;
      return { ...unpackShapeOf(object), uid: uuidV7(), class: id, order };
    }),
  };
}

/** Gives pictures in stock this delivery's labels, as chosen. Returns how many say something else than before. */
async function relabelThere(tx: Transaction, act: ShelvingAct, mode: IntakeChoices["sameBytes"]): Promise<number> {
  if (mode === "skip") return 0;
  const fits = mode === "fill" ? sql`and i.state_there <> 'labeled'` : mode === "add" ? sql`and l.says` : sql``;
  let relabeled = 0;
  for (let last = -1; ;) {
    const page = await rowsOf(
      tx,
      incomingSchema,
      sql`select i.image_id as image, i.ordinal, i.settled_state as state, i.captions, i.fields, l.image_class_ids as classes,
          coalesce((select jsonb_agg(jsonb_build_object('class', o.class_id, 'value', o.value) order by o.nth)
            from incoming_objects o where o.ordinal = i.ordinal), '[]') as objects
        from incoming i join incoming_labels l on l.ordinal = i.ordinal
        where i.image_id is not null and i.settled_state <> 'unlabeled' ${fits} and i.ordinal > ${last}
        order by i.ordinal limit ${relabelingPage}`,
    );
    const byImage = new Map(page.map((row) => [row.image, incomingLabels(row)]));
    const { changed: images } = await changeLabels(
      tx,
      act,
      [...byImage.keys()],
      ({ labels }, id) => {
        const incoming = byImage.get(id) as Incoming;
        return mode === "add" ? addSteps(labels, incoming) : replaceSteps(labels, incoming);
      },
      { objects: true },
    );
    relabeled += images;
    if (page.length < relabelingPage) return relabeled;
    last = page.at(-1)?.ordinal ?? last;
  }
}

const sumsSchema = z.object({
  ready: z.number(),
  left_out: z.number(),
  there: z.number(),
  again: z.number(),
  contradicting: z.number(),
});

async function insertAct(tx: Transaction, delivery: typeof deliveries.$inferSelect, actor: string): Promise<number> {
  const { id, collectionId, name } = delivery;
  const [act] = await tx
    .insert(acts)
    .values({ collectionId, kind: "take-in", text: `took in ${name}`, actor, via: { kind: "delivery", id } })
    .returning({ id: acts.id });
  return act?.id as number;
}

/**
 * Running it for a delivery that is taken does nothing. `nearCopies` is how many of its pictures are nearly the same
 * as another.
 */
export async function shelve(
  tx: Transaction,
  deliveryId: number,
  collectionId: number,
  nearCopies: number,
  actor: string,
): Promise<void> {
  // Two deliveries into one collection are shelved one after the other.
  const revision = await changed(tx, collectionId, "stock", "classes", "shelf", "deliveries");
  const [delivery] = await tx.select().from(deliveries).where(eq(deliveries.id, deliveryId)).for("update");
  if (!delivery || delivery.status === "taken" || !delivery.sheet) return;
  const choices = choicesOf(delivery);
  const added = await matchClasses(tx, collectionId, delivery.sheet.classes, choices.classes);
  await gather(tx, deliveryId, collectionId);
  await dealSplits(tx, choices.splits);
  const act = { act: await insertAct(tx, delivery, actor), revision };
  const relabeled = await relabelThere(tx, act, choices.sameBytes);
  const inserted = await insertNew(tx, act, deliveryId, collectionId, choices);
  await tx
    .update(acts)
    .set({ status: "done", images: inserted.images + relabeled })
    .where(eq(acts.id, act.act));
  await tx.execute(
    sql`insert into links (sha256, url) select i.sha256, i.link from incoming i where i.link is not null on conflict (sha256) do update set url = excluded.url`,
  );

  const counts = await rowOf(
    tx,
    sumsSchema,
    sql`
    select count(*) filter (where sha256 is not null and not left_out)::int as ready, count(*) filter (where left_out)::int as left_out,
      (select count(*)::int from incoming where image_id is not null) as there,
      count(*) filter (where sha256 is not null and not left_out)::int - (select count(*)::int from incoming) as again,
      (select count(*)::int from (select 1 from delivery_items where delivery_id = ${deliveryId} and sha256 is not null and not left_out and jsonb_array_length(item->'classes') > 0
        group by sha256 having count(distinct (item->'classes')::text) > 1) c) as contradicting
    from delivery_items where delivery_id = ${deliveryId}`,
  );
  const there = counts?.there ?? 0;
  const findings = await finalFindings(tx, deliveryId, delivery.sheet.findings, {
    there: there - relabeled,
    again: counts?.again ?? 0,
    relabeled,
    contradicting: counts?.contradicting ?? 0,
    near: nearCopies,
  });
  await rememberSource(tx, delivery, choices);
  await tx
    .update(deliveries)
    .set({
      status: "taken",
      takenAt: new Date(),
      failure: null,
      findings,
      newClasses: added,
      taken: {
        ...inserted,
        skipped: there - relabeled + (counts?.again ?? 0),
        leftOut: counts?.left_out ?? 0,
        relabeled,
      },
    })
    .where(eq(deliveries.id, deliveryId));
  await tx.delete(deliveryItems).where(eq(deliveryItems.deliveryId, deliveryId));
}

/** What was decided is proposed for the next delivery from the same source, and what it gave is not brought again. */
async function rememberSource(
  tx: Transaction,
  delivery: typeof deliveries.$inferSelect,
  choices: IntakeChoices,
): Promise<void> {
  const { sourceId } = delivery;
  if (sourceId === null) return;
  await tx
    .update(intakeSources)
    .set({
      classes: sql`${intakeSources.classes} || ${JSON.stringify(choices.classes)}::jsonb`,
      lastName: delivery.name,
    })
    .where(eq(intakeSources.id, sourceId));
  await tx.execute(sql`
    insert into source_files (source_id, path, stamp, delivery_id)
    select distinct on (path) ${sourceId}::bigint, path, stamp, delivery_id from delivery_items where delivery_id = ${delivery.id} and stamp is not null order by path, ordinal
    on conflict (source_id, path) do update set stamp = excluded.stamp, delivery_id = excluded.delivery_id`);
}

const pageSize = 2000;

/** What was found in each picture that has a finding, a page of pictures at a time. */
async function* stagedFindings(tx: Transaction, deliveryId: number): AsyncIterable<Finding[]> {
  for (let last = -1; ;) {
    const page = await tx
      .select({ ordinal: deliveryItems.ordinal, findings: deliveryItems.findings })
      .from(deliveryItems)
      .where(
        and(
          eq(deliveryItems.deliveryId, deliveryId),
          gt(deliveryItems.ordinal, last),
          eq(deliveryItems.leftOut, false),
          sql`jsonb_array_length(${deliveryItems.findings}) > 0`,
        ),
      )
      .orderBy(asc(deliveryItems.ordinal))
      .limit(pageSize);
    for (const { findings } of page) yield findings ?? [];
    if (page.length < pageSize) return;
    last = page[page.length - 1]?.ordinal ?? last;
  }
}

type Sums = { there: number; again: number; relabeled: number; contradicting: number; near: number };

/** What was foreseen from annotations is replaced by what the files showed; what only reading can tell stays. */
async function finalFindings(
  tx: Transaction,
  deliveryId: number,
  foreseen: readonly Finding[],
  sums: Sums,
): Promise<Finding[]> {
  const byFiles = new Set([
    "image-unreadable",
    "box-outside-image",
    "size-mismatch",
    "exif-rotated",
    "object-duplicate",
    "image-unlabeled",
    "image-empty",
  ]);
  const report = new Findings();
  report.merge(foreseen.filter((finding) => !byFiles.has(finding.code) && finding.code !== "shape-degenerate"));
  let degenerate = 0;
  for await (const findings of stagedFindings(tx, deliveryId)) {
    report.merge(findings);
    degenerate += findings.find((finding) => finding.code === "shape-degenerate")?.count ?? 0;
  }
  // Shapes that the reader itself dropped never reached a file; the larger number is the whole.
  const read = foreseen.find((finding) => finding.code === "shape-degenerate");
  if (read && read.count > degenerate) report.merge([{ ...read, count: read.count - degenerate }]);
  if (sums.there > 0) report.add("already-in-stock", "", undefined, sums.there);
  if (sums.again > 0) report.add("copy-in-delivery", "", undefined, sums.again);
  if (sums.relabeled > 0) report.add("labels-changed", "", undefined, sums.relabeled);
  if (sums.contradicting > 0) report.add("label-contradiction", "", undefined, sums.contradicting);
  if (sums.near > 0) report.add("near-copy", "", undefined, sums.near);
  return report.list();
}
