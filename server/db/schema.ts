/** The tables. Objects are rows with box columns for every shape, the exact shape beside them. */
import type { IntakeChoices } from "@larder/core/intake/choices";
import type { DeliveryFacts } from "@larder/core/intake/facts";
import type { Finding } from "@larder/core/model/finding";
import type { AttributeSchema } from "@larder/core/model/attribute-schema";
import type { AttributeValue, ClassInfo, LabeledObject, Licence } from "@larder/core/model/item";
import type { ShapeColumn, StoredShape } from "@larder/core/labels/stored-shape";
import type { StoredStep } from "@larder/core/labels/stored-step";
import type { Shape } from "@larder/core/model/shape";
import type { Selection } from "@larder/core/selection/chosen";
import type { Scores } from "@larder/core/versions/scores";
import type { VersionNumbers } from "@larder/core/versions/version-numbers";
import type { StagedItem } from "../services/intake/staged-item";
import type { ActSource } from "../services/labels/act-source";
import type { Plan } from "@larder/core/plans/plan";
import { sql } from "drizzle-orm";
import {
  customType,
  type AnyPgColumn,
  bigint,
  boolean,
  doublePrecision,
  index,
  integer,
  pgTable,
  primaryKey,
  text,
  timestamp,
  unique,
  uniqueIndex,
  real,
  uuid,
} from "drizzle-orm/pg-core";
import { jsonb } from "./json-column";

const id = () => bigint("id", { mode: "number" }).primaryKey().generatedAlwaysAsIdentity();
const made = () => timestamp("created_at", { withTimezone: true }).notNull().defaultNow();
const bytea = customType<{ data: Buffer }>({ dataType: () => "bytea" });
/** SHA-256 in hexadecimal, compared byte by byte: the order of a manifest, and the order of every index on one. */
const hash = customType<{ data: string }>({ dataType: () => 'text collate "C"' });
const ref = (name: string) => bigint(name, { mode: "number" });

export const collections = pgTable(
  "collections",
  {
    id: id(),
    name: text("name").notNull(),
    band: integer("band").notNull().default(0),
    /** What may be said of its images, beside classes: the columns of the ledger. */
    imageAttributes: jsonb("image_attributes").$type<AttributeSchema[]>().notNull().default([]),
    /** One higher with every transaction that changes anything in it: cache key, ETag and event in one. */
    revision: bigint("revision", { mode: "number" }).notNull().default(0),
    /** Numbers of the stock, kept by triggers on `images` (migration 0005). */
    images: integer("images").notNull().default(0),
    objects: integer("objects").notNull().default(0),
    bytes: bigint("bytes", { mode: "number" }).notNull().default(0),
    labeled: integer("labeled").notNull().default(0),
    empty: integer("empty").notNull().default(0),
    unlabeled: integer("unlabeled").notNull().default(0),
    /** What it is, for people (Markdown), under which licence, and how to cite it. */
    description: text("description").notNull().default(""),
    licence: text("licence").notNull().default(""),
    citation: text("citation").notNull().default(""),
    /** Set while it is put away: it stands below the others then. */
    archivedAt: timestamp("archived_at", { withTimezone: true }),
    /** Set once it is being deleted: from then on it is on no shelf. */
    deletingAt: timestamp("deleting_at", { withTimezone: true }),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
  },
  (table) => [
    uniqueIndex("collection_name_once")
      .on(table.name)
      .where(sql`${table.deletingAt} is null`),
  ],
);

/** Where deliveries come from again and again: what was decided for one is proposed for the next. */
export const intakeSources = pgTable(
  "intake_sources",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    /** The kind of origin and its place, as one text. */
    location: text("location").notNull(),
    /** Class decisions of the last delivery taken in from here, and its name. */
    classes: jsonb("classes").$type<IntakeChoices["classes"]>().notNull().default({}),
    lastName: text("last_name").notNull().default(""),
  },
  (table) => [unique("intake_source_once").on(table.collectionId, table.location)],
);

/**
 * What a source that is scanned again has given already: each picture's path, its file's stamp and what was said about
 * it.
 */
export const sourceFiles = pgTable(
  "source_files",
  {
    sourceId: ref("source_id")
      .notNull()
      .references(() => intakeSources.id, { onDelete: "cascade" }),
    path: text("path").notNull(),
    stamp: text("stamp").notNull(),
    deliveryId: ref("delivery_id")
      .notNull()
      .references((): AnyPgColumn => deliveries.id, { onDelete: "cascade" }),
  },
  (table) => [
    primaryKey({ columns: [table.sourceId, table.path] }),
    index("source_files_by_delivery").on(table.deliveryId),
  ],
);

export const deliveryStatuses = [
  /** Announced, and nothing of it is there yet: in no list. */
  "begun",
  "arriving",
  "waiting",
  "reading",
  "read",
  "taking",
  "taken",
  "undoing",
  "undone",
  "failed",
] as const;
export type DeliveryStatus = (typeof deliveryStatuses)[number];

/** What reading a delivery came to: the numbers of its intake sheet. */
export type IntakeSheet = {
  format: string;
  reason: string;
  otherFormats: { format: string; reason: string }[];
  images: number;
  labeled: number;
  empty: number;
  unlabeled: number;
  objects: number;
  splits: { train: number; val: number; test: number; none: number };
  /** Pictures an annotation names that are not there, by name as far as they are kept, and how many in all. */
  unmatched: { count: number; names: string[] };
  /**
   * Files other than pictures: those that were read as annotations, and those that were not. Names as far as they are
   * kept.
   */
  files: { used: number; usedNames: string[]; unused: number; unusedNames: string[] };
  /** Images that took a class from their folder's name. */
  folderClasses: number;
  readAt: string;
  /** Of a source that was scanned before: how many pictures are as they were. */
  unchanged: number;
  /** True where annotations came alone and were matched to what is in stock. */
  againstStock: boolean;
  classes: (ClassInfo & { images: number; objects: number })[];
  findings: Finding[];
  seconds: number;
};

/** How pictures of a delivery agree with each other and with stock: counts, and when they were taken. */
export type LookedInto = { takenFrom: string | null; takenTo: string | null; placed: number };

/** Where a delivery's files are read from. */
export type Origin =
  | { kind: "files" }
  | { kind: "folder"; root: string; path: string }
  | { kind: "bucket"; bucket: string; prefix: string }
  | { kind: "addresses"; keep: "copy" | "link" }
  | {
      kind: "collection";
      collection: number;
      class: string | null;
      selection: Selection | null;
      labels: boolean;
      /** Whether what was taken in leaves the collection it came from. */
      move?: boolean | undefined;
    }
  | { kind: "sample"; sample: string };

export const deliveries = pgTable(
  "deliveries",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    source: text("source").notNull(),
    origin: jsonb("origin").$type<Origin>().notNull().default({ kind: "files" }),
    sourceId: ref("source_id").references(() => intakeSources.id, { onDelete: "set null" }),
    choices: jsonb("choices").$type<IntakeChoices>(),
    facts: jsonb("facts").$type<DeliveryFacts>(),
    /** What looking into the pictures came to, once it is through. */
    looked: jsonb("looked").$type<LookedInto>(),
    bytes: bigint("bytes", { mode: "number" }).notNull().default(0),
    status: text("status").$type<DeliveryStatus>().notNull().default("waiting"),
    sheet: jsonb("sheet").$type<IntakeSheet>(),
    /** What was found in the end, once the files themselves were read. */
    findings: jsonb("findings").$type<Finding[]>().notNull().default([]),
    taken: jsonb("taken").$type<{
      images: number;
      objects: number;
      skipped: number;
      leftOut: number;
      relabeled?: number;
    }>(),
    failure: text("failure"),
    newClasses: jsonb("new_classes").$type<number[]>().notNull().default([]),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
    takenAt: timestamp("taken_at", { withTimezone: true }),
    undoneAt: timestamp("undone_at", { withTimezone: true }),
    undoneBy: text("undone_by"),
  },
  (table) => [
    index("deliveries_by_collection").on(table.collectionId),
    index("deliveries_by_source").on(table.sourceId),
  ],
);

export type Delivery = typeof deliveries.$inferSelect;

/** Files of a delivery that need not be sent: their bytes are in stock. */
export const deliveryFiles = pgTable(
  "delivery_files",
  {
    deliveryId: ref("delivery_id")
      .notNull()
      .references(() => deliveries.id, { onDelete: "cascade" }),
    path: text("path").notNull(),
    sha256: hash("sha256").notNull(),
    bytes: bigint("bytes", { mode: "number" }).notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.deliveryId, table.path] }),
    index("delivery_files_by_hash").on(table.sha256),
  ],
);

/** When and where a picture was taken, as its file tells; degrees are decimal, WGS 84. */
const whenAndWhere = () => ({
  takenAt: timestamp("taken_at", { withTimezone: false, mode: "string" }),
  latitude: doublePrecision("latitude"),
  longitude: doublePrecision("longitude"),
});

/** An object on its way in, with the box and area that its row will have. */
export type StagedObject = Omit<LabeledObject, "shape"> & {
  shape: StoredShape;
  box: [number, number, number, number];
  area: number;
  /** As thumbnails draw it, where its shape is long. */
  outline?: Shape;
};

/** A delivery's images before they are stock: filled by reading, completed by taking in, emptied when both are done. */
export const deliveryItems = pgTable(
  "delivery_items",
  {
    deliveryId: ref("delivery_id")
      .notNull()
      .references(() => deliveries.id, { onDelete: "cascade" }),
    ordinal: integer("ordinal").notNull(),
    path: text("path").notNull(),
    split: text("split"),
    state: text("state").notNull(),
    item: jsonb("item").$type<StagedItem>().notNull(),
    leftOut: boolean("left_out").notNull().default(false),
    ready: boolean("ready").notNull().default(false),
    unreadable: text("unreadable"),
    sha256: hash("sha256"),
    bytes: bigint("bytes", { mode: "number" }),
    width: integer("width"),
    height: integer("height"),
    orientation: integer("orientation"),
    extension: text("extension"),
    ...whenAndWhere(),
    /** The perceptual hash of the upright picture, in hexadecimal. */
    nearHash: text("near_hash"),
    /** Another place in the delivery, or an image in stock, that is nearly the same. */
    nearOrdinal: integer("near_ordinal"),
    nearImage: bigint("near_image", { mode: "number" }),
    /** Where the picture stays when it is kept as a link. */
    link: text("link"),
    stamp: text("stamp"),
    settledState: text("settled_state"),
    objects: jsonb("objects").$type<StagedObject[]>(),
    findings: jsonb("findings").$type<Finding[]>(),
  },
  (table) => [primaryKey({ columns: [table.deliveryId, table.ordinal] })],
);

export const classes = pgTable(
  "classes",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    code: text("code").notNull(),
    colour: integer("colour").notNull(),
    position: integer("position").notNull(),
    keypoints: jsonb("keypoints").$type<string[]>(),
    skeleton: jsonb("skeleton").$type<[number, number][]>(),
    /** Keypoints that swap in a mirror, by number from 0; null where their names tell. */
    pairs: jsonb("pairs").$type<[number, number][]>(),
    supercategory: text("supercategory"),
    /** Its id in the file it came with. */
    sourceId: text("source_id"),
    attributes: jsonb("attributes").$type<AttributeSchema[]>().notNull().default([]),
    parentId: ref("parent_id").references((): AnyPgColumn => classes.id, { onDelete: "set null" }),
    /** The class it was merged into: what comes in under its name goes there. */
    mergedInto: ref("merged_into").references((): AnyPgColumn => classes.id, { onDelete: "set null" }),
    /** Set where it came with a delivery that was undone and nothing else uses it. */
    removedAt: timestamp("removed_at", { withTimezone: true }),
    /** Objects and image-level labels of this class in stock, kept by triggers on `images`. */
    labels: integer("labels").notNull().default(0),
  },
  (table) => [
    unique("class_name_once").on(table.collectionId, table.name),
    index("classes_by_parent").on(table.parentId),
    index("classes_by_merger").on(table.mergedInto),
  ],
);

const inStock = (table: { removedAt: AnyPgColumn }) => sql`${table.removedAt} is null`;

export const images = pgTable(
  "images",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    deliveryId: ref("delivery_id")
      .notNull()
      .references(() => deliveries.id, { onDelete: "cascade" }),
    ordinal: integer("ordinal").notNull(),
    sha256: hash("sha256").notNull(),
    name: text("name").notNull(),
    bytes: bigint("bytes", { mode: "number" }).notNull(),
    width: integer("width").notNull(),
    height: integer("height").notNull(),
    orientation: integer("orientation").notNull().default(1),
    extension: text("extension").notNull(),
    split: text("split"),
    state: text("state").notNull(),
    objectCount: integer("object_count").notNull().default(0),
    /** Objects a class id. */
    classCounts: jsonb("class_counts").$type<Record<string, number>>().notNull().default({}),
    imageClassIds: bigint("image_class_ids", { mode: "number" })
      .array()
      .notNull()
      .default(sql`'{}'`),
    captions: jsonb("captions").$type<string[]>().notNull().default([]),
    fields: jsonb("fields").$type<Record<string, string | string[]>>().notNull().default({}),
    licence: jsonb("licence").$type<Licence>(),
    ...whenAndWhere(),
    nearHash: text("near_hash"),
    /** Whether `near_pairs` has what it is nearly the same as. */
    nearNoted: boolean("near_noted").notNull().default(false),
    /** Whether `image_features` has the features of the picture and of every box on it. */
    learned: boolean("learned").notNull().default(false),
    tags: text("tags")
      .array()
      .notNull()
      .default(sql`'{}'`),
    attributes: jsonb("attributes").$type<Record<string, AttributeValue>>().notNull().default({}),
    /** Codes of what was found when it came in. */
    findings: text("findings")
      .array()
      .notNull()
      .default(sql`'{}'`),
    suggestions: jsonb("suggestions").$type<unknown[]>().notNull().default([]),
    /** A pinned image stays in its split whatever later plans do. */
    pinned: boolean("pinned").notNull().default(false),
    /** One higher with each change of its labels; 0 as it came. */
    revision: integer("revision").notNull().default(0),
    /** Set while it lies in the bin: it is in no count, no plan and no version built from then on. */
    removedAt: timestamp("removed_at", { withTimezone: true }),
    /** When what is said about the image last changed. */
    labelsAt: timestamp("labels_at", { withTimezone: true }).notNull().defaultNow(),
    createdAt: made(),
  },
  (table) => [
    uniqueIndex("image_once").on(table.collectionId, table.sha256).where(inStock(table)),
    index("images_by_collection").on(table.collectionId, table.id),
    index("images_by_delivery").on(table.deliveryId, table.ordinal),
    index("images_by_hash").on(table.sha256),
    index("images_without_near_pairs")
      .on(table.collectionId)
      .where(sql`not ${table.nearNoted}`),
    index("images_not_learned")
      .on(table.collectionId, table.id)
      .where(sql`not ${table.learned} and ${table.removedAt} is null`),
    index("images_in_the_bin")
      .on(table.collectionId, table.removedAt)
      .where(sql`${table.removedAt} is not null`),
  ],
);

/** What images and the boxes on them look like, as core/learning/image-features packs it. */
export const imageFeatures = pgTable(
  "image_features",
  {
    imageId: ref("image_id")
      .primaryKey()
      .references(() => images.id, { onDelete: "cascade" }),
    collectionId: ref("collection_id").notNull(),
    /** Higher with each row that is written: what came after another is found by it. */
    made: bigint("made", { mode: "number" })
      .notNull()
      .default(sql`nextval('image_features_made')`),
    features: bytea("features").notNull(),
    /** What the picture is like as a whole (core/learning/measures); empty where it is not known. */
    measures: bytea("measures")
      .notNull()
      .default(sql`''`),
  },
  (table) => [index("image_features_by_making").on(table.collectionId, table.made)],
);

/** Small cut-outs of objects (WebP), made with what is learned of their images. */
export const smallCutouts = pgTable("small_cutouts", {
  objectId: ref("object_id")
    .primaryKey()
    .references(() => objects.id, { onDelete: "cascade" }),
  picture: bytea("picture").notNull(),
});

/** Images that are nearly the same, each pair both ways; what lies in the bin is among them. */
export const nearPairs = pgTable(
  "near_pairs",
  {
    imageId: ref("image_id")
      .notNull()
      .references(() => images.id, { onDelete: "cascade" }),
    otherId: ref("other_id")
      .notNull()
      .references(() => images.id, { onDelete: "cascade" }),
  },
  (table) => [primaryKey({ columns: [table.imageId, table.otherId] }), index("near_pairs_by_other").on(table.otherId)],
);

/** Selections that a collection's people gave a name. */
export const savedSelections = pgTable(
  "saved_selections",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    where: text("where_text").notNull(),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
  },
  (table) => [unique("selection_name_once").on(table.collectionId, table.name)],
);

export const objects = pgTable(
  "objects",
  {
    id: id(),
    imageId: ref("image_id")
      .notNull()
      .references(() => images.id, { onDelete: "cascade" }),
    /** For life, whatever changes about the object; UUID v7. */
    uid: uuid("uid")
      .notNull()
      .default(sql`uuid_v7()`),
    /** Drawing order within the image, lowest first; ties by uid. */
    ordinal: doublePrecision("ordinal").notNull(),
    /** Of a class that there is; triggers see to it, a statement at a time. */
    classId: ref("class_id").notNull(),
    x: doublePrecision("x").notNull(),
    y: doublePrecision("y").notNull(),
    width: doublePrecision("width").notNull(),
    height: doublePrecision("height").notNull(),
    area: doublePrecision("area").notNull(),
    /** The exact shape; of a mask everything but its runs. */
    shape: jsonb("shape").$type<ShapeColumn>().notNull(),
    /** A mask's runs, as core/geometry/run-bytes packs them. */
    mask: bytea("mask"),
    /** The shape as thumbnails draw it, where its own is long; null where that is short, or the object older than this. */
    outline: jsonb("outline").$type<Shape>(),
    group: uuid("group_uid"),
    attributes: jsonb("attributes").$type<LabeledObject["attributes"]>(),
    flags: jsonb("flags")
      .$type<Pick<LabeledObject, "crowd" | "occluded" | "truncated" | "difficult" | "confidence" | "givenArea">>()
      .notNull()
      .default({}),
  },
  (table) => [index("objects_by_image").on(table.imageId, table.ordinal), uniqueIndex("object_uid_once").on(table.uid)],
);

export const actStatuses = ["running", "done", "stopped", "failed"] as const;

/** What somebody did once, to one image or to a hundred thousand. */
export const acts = pgTable(
  "acts",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    kind: text("kind").notNull(),
    /** What was done, for people. */
    text: text("text").notNull(),
    /** The person who did it, and what it came through, where that was no person's hand. */
    actor: text("actor").notNull(),
    via: jsonb("via").$type<ActSource>(),
    /** What it does and to which images, where it is worked off in batches. */
    request: jsonb("request").$type<unknown>(),
    status: text("status").$type<(typeof actStatuses)[number]>().notNull().default("running"),
    images: integer("images").notNull().default(0),
    /** Images that an undo left as they are, because they changed since in the same place. */
    left: integer("left").notNull().default(0),
    /** The last image that is done: where a resumed act goes on. */
    reached: bigint("reached", { mode: "number" }).notNull().default(0),
    undoes: ref("undoes").references((): AnyPgColumn => acts.id, { onDelete: "cascade" }),
    undoneBy: ref("undone_by").references((): AnyPgColumn => acts.id, { onDelete: "set null" }),
    /** Whoever sends an act again, as its answer was lost, sends it under the same key. */
    key: uuid("key").unique(),
    createdAt: made(),
  },
  (table) => [
    index("acts_by_collection").on(table.collectionId, table.id),
    index("acts_by_undone").on(table.undoes),
    index("acts_by_undoing").on(table.undoneBy),
  ],
);
export type Act = typeof acts.$inferSelect;

/** One row an image and act: what was done to the image's labels, and what takes it back. Append only. */
/** Images that changed, or came, in a collection: a row for those of one statement. */
export const stockChanges = pgTable(
  "stock_changes",
  {
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    /** The collection's revision at which they did. */
    revision: bigint("revision", { mode: "number" }).notNull(),
    imageIds: bigint("image_ids", { mode: "number" }).array().notNull(),
  },
  (table) => [index("stock_changes_by_revision").on(table.collectionId, table.revision)],
);

/**
 * What an act did to an image, and what takes it back. Only whoever holds the locks of both writes a row, and triggers take
 * it along when one of them goes: foreign keys would ask for both with each of a hundred thousand rows.
 */
export const labelSteps = pgTable(
  "label_steps",
  {
    actId: ref("act_id").notNull(),
    imageId: ref("image_id").notNull(),
    revisionBefore: integer("revision_before").notNull(),
    steps: jsonb("steps").$type<StoredStep[]>().notNull(),
    inverse: jsonb("inverse").$type<StoredStep[]>().notNull(),
  },
  (table) => [
    primaryKey({ columns: [table.actId, table.imageId] }),
    index("label_steps_by_image").on(table.imageId, table.revisionBefore),
  ],
);

/** How long somebody has worked on an image. */
export const imageTimes = pgTable(
  "image_times",
  {
    imageId: ref("image_id")
      .notNull()
      .references(() => images.id, { onDelete: "cascade" }),
    actor: text("actor").notNull(),
    seconds: real("seconds").notNull(),
  },
  (table) => [primaryKey({ columns: [table.imageId, table.actor] })],
);

/** What a check of a collection goes by where somebody set it. */
export const checkThresholds = pgTable(
  "check_thresholds",
  {
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    code: text("code").notNull(),
    value: doublePrecision("value").notNull(),
  },
  (table) => [primaryKey({ columns: [table.collectionId, table.code] })],
);

/** A finding that is to be said no more, as a whole or of one image, until what proves it changes. */
export const checkDismissals = pgTable(
  "check_dismissals",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    /** The finding's key; of one image, the check's code. */
    key: text("key").notNull(),
    imageId: ref("image_id").references(() => images.id, { onDelete: "cascade" }),
    /** What proved it then: the finding's mark, or when the image was last changed. */
    mark: text("mark").notNull(),
    reason: text("reason").notNull(),
    actor: text("actor").notNull(),
    at: timestamp("at", { withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [index("dismissals_of_collection").on(table.collectionId), index("dismissals_of_image").on(table.imageId)],
);

/** Stocktakes in numbers: how many each finding counted. */
export const stocktakes = pgTable(
  "stocktakes",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    at: timestamp("at", { withTimezone: true }).notNull().defaultNow(),
    images: integer("images").notNull(),
    /** By the finding's key. */
    counts: jsonb("counts").$type<Record<string, number>>().notNull(),
  },
  (table) => [index("stocktakes_of_collection").on(table.collectionId, table.id)],
);

/** What came of comparing looks in a collection that is too large for it to be done while somebody waits. */
export const looksComparisons = pgTable("looks_comparisons", {
  collectionId: ref("collection_id")
    .primaryKey()
    .references(() => collections.id, { onDelete: "cascade" }),
  /** When labels had last changed (epoch milliseconds), and up to which of the features it was (`image_features.made`). */
  changed: bigint("changed", { mode: "number" }).notNull(),
  learned: bigint("learned", { mode: "number" }).notNull(),
  /** As core/checks/looks packs it. */
  found: bytea("found").notNull(),
});

/** What was found or counted of a part of a large stock, a plan's outcome or a version: a job works it out. */
export const partAnswers = pgTable(
  "part_answers",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    /** Stands for the question and what it is about. */
    asked: hash("asked").notNull(),
    question: text("question").$type<"stocktake" | "numbers">().notNull(),
    scope: jsonb("scope").$type<PartScope>().notNull(),
    /** Stands for all that the answer goes by; null where it is not answered yet. */
    key: hash("key"),
    /** JSON, deflated. */
    answer: bytea("answer"),
    askedAt: timestamp("asked_at", { withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [unique("part_asked_once").on(table.collectionId, table.asked)],
);

/** A part of a stock that is looked at, by the plan or the version and a selection; how long an edge a trainer sees. */
export type PartScope = { where: string; plan?: number; version?: number; longEdge?: number };

/** Where bytes can be fetched that are not stored: pictures kept as links. */
export const links = pgTable("links", { sha256: hash("sha256").primaryKey(), url: text("url").notNull() });

export const plans = pgTable(
  "plans",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    name: text("name").notNull(),
    body: jsonb("body").$type<Plan>().notNull(),
    createdAt: made(),
    updatedAt: timestamp("updated_at", { withTimezone: true }).notNull().defaultNow(),
  },
  (table) => [unique("plan_name_once").on(table.collectionId, table.name)],
);

/** What a plan said before, and who made it so. */
export const planRevisions = pgTable(
  "plan_revisions",
  {
    id: id(),
    planId: ref("plan_id")
      .notNull()
      .references(() => plans.id, { onDelete: "cascade" }),
    body: jsonb("body").$type<Plan>().notNull(),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
  },
  (table) => [index("plan_revisions_by_plan").on(table.planId, table.id)],
);

export type SplitNumbers = { images: number; objects: number };
export type VersionSource = { name: string; images: number; facts: DeliveryFacts | null };
export const versions = pgTable(
  "versions",
  {
    id: id(),
    collectionId: ref("collection_id")
      .notNull()
      .references(() => collections.id, { onDelete: "cascade" }),
    planId: ref("plan_id").references(() => plans.id, { onDelete: "set null" }),
    number: integer("number"),
    name: text("name").notNull(),
    note: text("note").notNull().default(""),
    /** What it holds where it is no version but a selection packed as it is: it has no number then. */
    selection: jsonb("selection").$type<Selection>(),
    plan: jsonb("plan").$type<Plan>().notNull(),
    status: text("status").$type<"building" | "frozen" | "failed">().notNull().default("building"),
    digest: hash("digest"),
    numbers: jsonb("numbers").$type<VersionNumbers>(),
    /** The deliveries its images came with, and what was known of them when it was frozen. */
    sources: jsonb("sources").$type<VersionSource[]>().notNull().default([]),
    /** What checks had found in the stock when it was frozen, in sentences. */
    faults: jsonb("faults").$type<string[]>().notNull().default([]),
    failure: text("failure"),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
    frozenAt: timestamp("frozen_at", { withTimezone: true }),
    /** Since when its renderings are dropped, to be made again when a package needs them. */
    rendersDroppedAt: timestamp("renders_dropped_at", { withTimezone: true }),
  },
  (table) => [
    unique("version_number_once").on(table.collectionId, table.number),
    index("versions_by_plan").on(table.planId),
  ],
);

/** Which source bytes a version needs for as long as it exists, and what they were called and came with. */
export const versionSources = pgTable(
  "version_sources",
  {
    versionId: ref("version_id")
      .notNull()
      .references(() => versions.id, { onDelete: "cascade" }),
    sha256: hash("sha256").notNull(),
    name: text("name"),
    delivery: text("delivery"),
  },
  (table) => [
    primaryKey({ columns: [table.versionId, table.sha256] }),
    index("version_sources_by_hash").on(table.sha256),
  ],
);

/** Which renderings a version needs for as long as it exists. */
export const versionRenders = pgTable(
  "version_renders",
  {
    versionId: ref("version_id")
      .notNull()
      .references(() => versions.id, { onDelete: "cascade" }),
    key: hash("key").notNull(),
    /** How long its file is, and when it was there, once it is. */
    bytes: bigint("bytes", { mode: "number" }),
    madeAt: timestamp("made_at", { withTimezone: true }),
  },
  (table) => [
    primaryKey({ columns: [table.versionId, table.key] }),
    index("version_renders_by_key").on(table.key),
    index("version_renders_by_time").on(table.versionId, table.madeAt),
  ],
);

export const packages = pgTable(
  "packages",
  {
    id: id(),
    versionId: ref("version_id")
      .notNull()
      .references(() => versions.id, { onDelete: "cascade" }),
    format: text("format").notNull(),
    status: text("status").$type<"packing" | "ready" | "failed">().notNull().default("packing"),
    /** How it is written, where that is not as by default. */
    options: jsonb("options").$type<Record<string, string>>().notNull().default({}),
    fileName: text("file_name").notNull(),
    bytes: bigint("bytes", { mode: "number" }),
    sha256: hash("sha256"),
    findings: jsonb("findings").$type<Finding[]>().notNull().default([]),
    failure: text("failure"),
    createdAt: made(),
    createdBy: text("created_by").notNull().default("larder"),
  },
  (table) => [unique("package_once").on(table.versionId, table.format)],
);

/** Addresses under which a package can be fetched by whoever has them, until they end. */
export const packageLinks = pgTable(
  "package_links",
  {
    id: id(),
    packageId: ref("package_id")
      .notNull()
      .references(() => packages.id, { onDelete: "cascade" }),
    /** The SHA-256 of what stands in the address: the address itself is told once and not kept. */
    tokenHash: hash("token_hash").notNull(),
    endsAt: timestamp("ends_at", { withTimezone: true }).notNull(),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
  },
  (table) => [unique("package_link_once").on(table.tokenHash), index("package_links_by_package").on(table.packageId)],
);

/** How well models did that were trained on a version. */
export const versionScores = pgTable(
  "version_scores",
  {
    id: id(),
    versionId: ref("version_id")
      .notNull()
      .references(() => versions.id, { onDelete: "cascade" }),
    model: text("model").notNull(),
    scores: jsonb("scores").$type<Scores>().notNull(),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
  },
  (table) => [index("version_scores_by_version").on(table.versionId)],
);

export const jobKinds = [
  "read-delivery",
  "look-into",
  "take-in",
  "put-aside",
  "act",
  "build-version",
  "pack",
  "empty-bin",
  "delete-collection",
  "housekeeping",
  "learn",
  "compare-looks",
  "answer-part",
] as const;
export type JobKind = (typeof jobKinds)[number];
export type JobStatus = "queued" | "running" | "paused" | "done" | "failed" | "stopped";

export const jobs = pgTable(
  "jobs",
  {
    id: uuid("id").primaryKey().defaultRandom(),
    kind: text("kind").$type<JobKind>().notNull(),
    subject: ref("subject").notNull(),
    collectionId: ref("collection_id").references(() => collections.id, { onDelete: "cascade" }),
    title: text("title").notNull(),
    status: text("status").$type<JobStatus>().notNull().default("queued"),
    done: bigint("done", { mode: "number" }).notNull().default(0),
    total: bigint("total", { mode: "number" }).notNull().default(0),
    message: text("message").notNull().default(""),
    stopRequested: boolean("stop_requested").notNull().default(false),
    pauseRequested: boolean("pause_requested").notNull().default(false),
    runs: integer("runs").notNull().default(0),
    /** One higher with each claim; every write of the job checks that it is still its own. */
    fence: integer("fence").notNull().default(0),
    worker: text("worker"),
    leaseUntil: timestamp("lease_until", { withTimezone: true }),
    createdAt: made(),
    createdBy: text("created_by").notNull(),
    startedAt: timestamp("started_at", { withTimezone: true }),
    endedAt: timestamp("ended_at", { withTimezone: true }),
  },
  (table) => [
    index("jobs_by_status").on(table.status, table.createdAt),
    index("jobs_by_collection").on(table.collectionId),
    uniqueIndex("job_once")
      .on(table.kind, table.subject)
      .where(sql`${table.status} in ('queued', 'running', 'paused')`),
  ],
);

/** Bytes that a deletion may have left without an owner; swept by services/blob-sweep. */
export const blobCandidates = pgTable(
  "blob_candidates",
  { kind: text("kind").$type<"blob" | "render">().notNull().default("blob"), sha256: hash("sha256").notNull() },
  (table) => [primaryKey({ columns: [table.kind, table.sha256] })],
);
