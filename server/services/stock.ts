/** The stock as people look at it: pages of images, histograms, one image with all that is known of it. */
import type { DeliveryFacts } from "@larder/core/intake/facts";
import { Failure } from "@larder/core/model/failure";
import { attributeValueSchema, type AttributeValue, type LabeledObject } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import type { Facets } from "@larder/core/snapshot/facets";
import type { Selection } from "@larder/core/selection/chosen";
import type { Vocabulary } from "@larder/core/selection/vocabulary";
import { needsLearned, type Order } from "@larder/core/snapshot/order";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/database";
import { numberList } from "../db/array-literal";
import { rowOf, rowsOf } from "../db/query";
import { ask } from "../snapshot/ask";
import { allow } from "./access";
import type { Actor } from "./actor";
import { startLearning } from "./learning/learn";
import { objectColumns, objectRowSchema } from "./labels/load-labels";

export type StockImage = {
  id: number;
  name: string;
  sha256: string;
  width: number;
  height: number;
  split: string | null;
  state: string;
  tags: string[];
  objects: { classId: number; shape: LabeledObject["shape"] }[];
  imageClassIds: number[];
};

const imageSchema = z.object({
  id: z.coerce.number(),
  name: z.string(),
  sha256: z.string(),
  width: z.number(),
  height: z.number(),
  split: z.string().nullable(),
  state: z.string(),
  tags: z.array(z.string()),
  imageClassIds: z.array(z.coerce.number()),
});
const imageColumns = sql`i.id, i.name, i.sha256, i.width, i.height, i.split, i.state, i.tags, i.image_class_ids as "imageClassIds"`;

type Drawn = { uid: string; class: number; shape: Shape; attributes?: Record<string, AttributeValue> };

/** The objects of images, in drawing order. */
async function objectsOf(images: readonly number[]): Promise<Map<number, Drawn[]>> {
  if (images.length === 0) return new Map();
  const byImage = new Map<number, Drawn[]>(images.map((id) => [id, []]));
  const rows = await rowsOf(
    db(),
    objectRowSchema,
    sql`select ${objectColumns} from objects o where o.image_id = any(${numberList(images)}) order by o.image_id, o.ordinal, o.uid`,
  );
  for (const { image, object } of rows) byImage.get(image)?.push(object);
  return byImage;
}

const drawnSchema = z.object({
  image: z.coerce.number(),
  /** Class and shape of each object, in drawing order. They were parsed when they came in. */
  drawn: z.custom<[number, Shape][]>((value) => Array.isArray(value)),
  whole: z.boolean(),
});

/** What thumbnails draw: the class of each object, and its outline where its shape is long. */
async function outlinesOf(images: readonly number[]): Promise<Map<number, StockImage["objects"]>> {
  const rows = await rowsOf(
    db(),
    drawnSchema,
    sql`select o.image_id as image, jsonb_agg(jsonb_build_array(o.class_id, coalesce(o.outline, o.shape)) order by o.ordinal, o.uid) as drawn,
        bool_or(o.outline is null and o.mask is not null) as whole
      from objects o where o.image_id = any(${numberList(images)}) group by o.image_id`,
  );
  // Masks that came before outlines were kept are drawn from their runs.
  const former = await objectsOf(rows.flatMap(({ image, whole }) => (whole ? [image] : [])));
  return new Map(
    rows.map(({ image, drawn, whole }) => [
      image,
      whole
        ? (former.get(image) ?? []).map(({ class: classId, shape }) => ({ classId, shape }))
        : drawn.map(([classId, shape]) => ({ classId, shape })),
    ]),
  );
}

/** A page of the stock in an order, that in which things came in where none is asked for, with shapes to draw; `start` counts from 0 among what matches. */
export async function stockPage(
  actor: Actor,
  collection: number,
  selection: Selection,
  page: { start: number; limit: number; order?: Order },
): Promise<{ images: StockImage[] }> {
  await allow(actor, "see", { collection });
  if (page.order && needsLearned(page.order)) await startLearning();
  const { ids } = await ask("page", collection, { selection, ...page });
  if (ids.length === 0) return { images: [] };
  const [images, objects] = await Promise.all([
    rowsOf(
      db(),
      imageSchema,
      sql`select ${imageColumns} from images i where i.id = any(${numberList(ids)}) and i.removed_at is null order by array_position(${numberList(ids)}, i.id)`,
    ),
    outlinesOf(ids),
  ]);
  return { images: images.map((image) => ({ ...image, objects: objects.get(image.id) ?? [] })) };
}

/** The histograms over the stock. Each counts what matches all filters but its own. */
export async function facets(actor: Actor, collection: number, selection: Selection): Promise<Facets> {
  await allow(actor, "see", { collection });
  return ask("facets", collection, selection);
}

/** The names and values that a collection's stock has, for completing selections. */
export async function vocabularyOfStock(actor: Actor, collection: number): Promise<Vocabulary> {
  await allow(actor, "see", { collection });
  return ask("vocabulary", collection, undefined);
}

/** Ids of what matches, from one place on: what lies between two places of the grid. */
export async function matchingIds(
  actor: Actor,
  collection: number,
  selection: Selection,
  page: { start: number; limit: number; order?: Order } = { start: 0, limit: 10_000 },
): Promise<number[]> {
  await allow(actor, "see", { collection });
  return (await ask("page", collection, { selection, ...page })).ids;
}

const detailSchema = imageSchema.extend({
  revision: z.number(),
  pinned: z.boolean(),
  bytes: z.coerce.number(),
  orientation: z.number(),
  delivery: z.object({
    id: z.number(),
    name: z.string(),
    facts: z.custom<DeliveryFacts | null>((value) => typeof value === "object"),
  }),
  takenAt: z.string().nullable(),
  latitude: z.number().nullable(),
  longitude: z.number().nullable(),
  link: z.string().nullable(),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  attributes: z.record(z.string(), attributeValueSchema),
});

export type ImageDetail = Omit<z.infer<typeof detailSchema>, never> & {
  before: number | null;
  after: number | null;
  /** Its place among what matches, from 1. */
  place: number;
  objects: ({ uid: string; classId: number; shape: Shape; attributes: Record<string, AttributeValue> } & Pick<
    LabeledObject,
    "crowd" | "occluded" | "truncated" | "difficult" | "confidence"
  >)[];
};

/** One image with everything known of it, and its neighbours among what the selection means. */
export async function imageDetail(
  actor: Actor,
  collection: number,
  id: number,
  selection: Selection,
  order?: Order,
): Promise<ImageDetail> {
  await allow(actor, "see", { collection });
  const image = await rowOf(
    db(),
    detailSchema,
    sql`select ${imageColumns}, i.revision, i.pinned, i.bytes, i.orientation, i.captions, i.fields, i.attributes,
        jsonb_build_object('id', d.id, 'name', d.name, 'facts', d.facts) as delivery,
        to_char(i.taken_at, 'YYYY-MM-DD HH24:MI:SS') as "takenAt", i.latitude, i.longitude,
        (select l.url from links l where l.sha256 = i.sha256) as link
      from images i join deliveries d on d.id = i.delivery_id
      where i.id = ${id} and i.collection_id = ${collection} and i.removed_at is null`,
  );
  if (!image) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  const [{ place, before, after }, objects] = await Promise.all([
    ask("place", collection, { selection, image: id, order }),
    objectsOf([id]),
  ]);
  return {
    ...image,
    before,
    after,
    place: place + 1,
    objects: (objects.get(id) ?? []).map(({ uid, class: classId, shape, attributes, ...rest }) => {
      const { order: _, group: __, ...flags } = rest as Record<string, unknown>;
      return { uid, classId, shape, attributes: attributes ?? {}, ...flags };
    }),
  };
}

const bytesSchema = z.object({ sha256: z.string(), extension: z.string(), orientation: z.number(), name: z.string() });

/** The hash of an image's bytes and their kind, for serving them. */
export async function imageBytes(actor: Actor, id: number): Promise<z.infer<typeof bytesSchema>> {
  await allow(actor, "see", { image: id });
  const row = await rowOf(
    db(),
    bytesSchema,
    sql`select sha256, extension, orientation, name from images where id = ${id}`,
  );
  if (!row) throw new Failure("image-missing", "This image is not in stock any more.", 404);
  return row;
}
