/**
 * Looks into the pictures of a delivery: each file is hashed, decoded, settled, stored and staged, a few side by side.
 * A worker that is lost leaves staged rows, and the next goes on from them.
 */
import { openPicture } from "@larder/core/formats/open-picture";
import { frameChoice, type FrameChoice } from "@larder/core/formats/label-frame";
import { settle } from "@larder/core/formats/settle";
import { shapeArea, shapeBounds } from "@larder/core/geometry/shape";
import { thumbnailOutline } from "@larder/core/geometry/thumbnail-outline";
import { Failure } from "@larder/core/model/failure";
import { Findings, type Finding, type FindingCode } from "@larder/core/model/finding";
import type { Item } from "@larder/core/model/item";
import { and, asc, eq, gt, sql } from "drizzle-orm";
import { blobs, sha256 } from "../../blobs/store";
import type { JobContext } from "../../jobs/handler";
import { packShapeOf } from "@larder/core/labels/stored-shape";
import { db, type Transaction } from "../../db/database";
import { deliveryItems, type StagedObject } from "../../db/schema";
import { storableJson } from "../../db/storable";
import { probe } from "../../pixels/probe";
import { nearHashOf, thumbnailAndNearHash } from "../../pixels/thumbnail";
import type { WhenAndWhere } from "../../pixels/exif";
import { settings } from "../../settings";
import type { Delivery } from "../../db/schema";
import { unpackItem, type StagedItem } from "./staged-item";
import { choicesOf, openDelivery } from "./open-delivery";
import type { OpenedOrigin } from "./origin";
import { nameCandidates } from "../name-candidates";

/** What a killed worker loses at most; each batch is one round trip to the database. */
const batchSize = 32;
const pageSize = 200;
/** After so many pictures it is asked whether to go on. */
const askedAfter = 8;

type Staged = {
  ordinal: number;
  unreadable: string | null;
  sha256: string | null;
  bytes: number | null;
  width: number | null;
  height: number | null;
  orientation: number | null;
  extension: string | null;
  near_hash: string | null;
  taken_at: WhenAndWhere["takenAt"];
  latitude: number | null;
  longitude: number | null;
  settled_state: string | null;
  objects: StagedObject[] | null;
  findings: Finding[];
};

type Looked = { row: Staged; store: () => Promise<void> };

const nothingToStore = () => Promise.resolve();

/**
 * The near-copy hash of a picture, and how its thumbnail and, unless they stay behind a link, its bytes go to the
 * store.
 */
async function decode(
  hash: string,
  bytes: Uint8Array,
  linked: boolean,
): Promise<{ nearHash: string; store: () => Promise<void> }> {
  const store = blobs();
  const putBytes = linked ? nothingToStore : () => store.put(hash, bytes);
  if (await store.hasDerived("thumbnails", hash))
    return { nearHash: await nearHashOf(await store.readDerived("thumbnails", hash)), store: putBytes };
  const { thumbnail, nearHash } = await thumbnailAndNearHash(bytes, settings().limits.pixels);
  return {
    nearHash,
    async store() {
      await store.putDerived("thumbnails", hash, thumbnail);
      await putBytes();
    },
  };
}

/** What a picture that cannot be had is called in the findings, by the code of its failure. */
function findingFor(code: string): FindingCode {
  if (code === "entry-unsafe") return "entry-unsafe";
  return code === "address-failed" || code === "address-refused" ? "address-failed" : "image-unreadable";
}

/** Reads one file and settles its labels; an image that cannot be decoded is staged as such, with its finding. */
async function lookAt(
  opened: OpenedOrigin,
  ordinal: number,
  item: Item,
  { linked, frame }: { linked: boolean; frame: FrameChoice },
): Promise<Looked> {
  const report = new Findings();
  try {
    const bytes = await openPicture(opened.tree, item);
    const { extension, taken, ...facts } = await probe(bytes, settings().limits.pixels);
    const hash = sha256(bytes);
    const { nearHash, store } = await decode(hash, bytes, linked);
    const settled = settle(item, facts, report, frame);
    const objects = settled.objects.flatMap((object): StagedObject[] => {
      const box = shapeBounds(object.shape);
      const bounds: StagedObject["box"] = box ? [box.x, box.y, box.width, box.height] : [0, 0, 0, 0];
      const outline = thumbnailOutline(object.shape, facts);
      return box
        ? [{ ...packShapeOf(object), box: bounds, area: shapeArea(object.shape), ...(outline ? { outline } : {}) }]
        : [];
    });
    const row: Staged = {
      ordinal,
      unreadable: null,
      sha256: hash,
      bytes: bytes.length,
      ...facts,
      extension,
      near_hash: nearHash,
      taken_at: taken.takenAt,
      latitude: taken.latitude,
      longitude: taken.longitude,
      settled_state: settled.state,
      objects,
      findings: report.list(),
    };
    return { row, store };
  } catch (error) {
    // What is wrong with one picture is said of it; what is wrong with the whole source ends the job.
    if (!(error instanceof Failure) || error.code.startsWith("bucket-")) throw error;
    report.add(findingFor(error.code), item.path, error.message);
    const row: Staged = {
      ordinal,
      unreadable: error.message,
      sha256: null,
      bytes: null,
      width: null,
      height: null,
      orientation: null,
      extension: null,
      near_hash: null,
      taken_at: null,
      latitude: null,
      longitude: null,
      settled_state: null,
      objects: null,
      findings: report.list(),
    };
    return { row, store: nothingToStore };
  }
}

async function saveStaged(tx: Transaction, deliveryId: number, batch: readonly Staged[]): Promise<void> {
  const { rowCount } = await tx.execute(sql`
    update delivery_items d set ready = true, unreadable = s.unreadable, sha256 = s.sha256, bytes = s.bytes, width = s.width, height = s.height,
      orientation = s.orientation, extension = s.extension, near_hash = s.near_hash, taken_at = s.taken_at, latitude = s.latitude, longitude = s.longitude,
      settled_state = s.settled_state, objects = s.objects, findings = s.findings
    from jsonb_to_recordset(${storableJson(JSON.stringify(batch))}::jsonb) as s(ordinal int, unreadable text, sha256 text, bytes bigint, width int, height int,
      orientation int, extension text, near_hash text, taken_at timestamp, latitude float8, longitude float8, settled_state text, objects jsonb, findings jsonb)
    where d.delivery_id = ${deliveryId} and d.ordinal = s.ordinal`);
  if ((rowCount ?? 0) >= batch.length) return;
  // The delivery was put aside meanwhile: nobody else knows of these bytes.
  const hashes = batch.flatMap(({ sha256 }) => sha256 ?? []);
  await nameCandidates(tx, sql`select 'blob', unnest(${sql.param(hashes)}::text[])`);
}

type Waiting = { ordinal: number; item: StagedItem; link: string | null };

function waitingAfter(deliveryId: number, ordinal: number): Promise<Waiting[]> {
  return db()
    .select({ ordinal: deliveryItems.ordinal, item: deliveryItems.item, link: deliveryItems.link })
    .from(deliveryItems)
    .where(
      and(
        eq(deliveryItems.deliveryId, deliveryId),
        eq(deliveryItems.leftOut, false),
        eq(deliveryItems.ready, false),
        gt(deliveryItems.ordinal, ordinal),
      ),
    )
    .orderBy(asc(deliveryItems.ordinal))
    .limit(pageSize)
    .execute();
}

/** The rows that wait to be staged, a page at a time, the next one fetched ahead; ends early where `goOn` says so. */
async function* waitingRows(deliveryId: number, goOn: () => Promise<boolean>): AsyncGenerator<Waiting, void> {
  let coming = waitingAfter(deliveryId, -1);
  // Whatever ends the work first, a page that is not asked for any more must not count as unheard.
  coming.catch(() => undefined);
  while (await goOn()) {
    const page = await coming;
    const last = page[pageSize - 1];
    if (last) {
      coming = waitingAfter(deliveryId, last.ordinal);
      coming.catch(() => undefined);
    }
    for (const [n, row] of page.entries()) {
      // Whoever takes the delivery in does not wait for a whole page to be looked into.
      if (n % askedAfter === askedAfter - 1 && !(await goOn())) return;
      yield row;
    }
    if (!last) return;
  }
}

/** Saves what is staged in batches, while the next pictures are worked on. */
class Saving {
  private batch: Staged[] = [];
  private under = Promise.resolve();

  constructor(
    private readonly deliveryId: number,
    private readonly write: JobContext["write"],
  ) {}

  add(staged: Staged): void {
    this.batch.push(staged);
    if (this.batch.length >= batchSize) this.flush();
  }

  private flush(): void {
    const batch = this.batch;
    this.batch = [];
    if (batch.length > 0)
      this.under = this.under.then(() => this.write((tx) => saveStaged(tx, this.deliveryId, batch)));
    // Said by `end`; until then it must not count as unheard.
    this.under.catch(() => undefined);
  }

  async end(): Promise<void> {
    this.flush();
    await this.under;
  }
}

/**
 * Stages every picture of a delivery that is not staged yet and not left out, a few side by side. `progress` is called
 * after each picture; `goOn` is asked now and then. Returns false where it was told to end before all was done.
 */
export async function stageAll(
  delivery: Delivery,
  write: JobContext["write"],
  progress: (done: number, total: number) => Promise<void>,
  goOn: () => Promise<boolean>,
): Promise<boolean> {
  const opened = await openDelivery(delivery);
  const saving = new Saving(delivery.id, write);
  const frame = frameChoice(choicesOf(delivery).options);
  try {
    const [counts] = await db()
      .select({
        total: sql<number>`count(*)::int`,
        ready: sql<number>`count(*) filter (where ${deliveryItems.ready})::int`,
      })
      .from(deliveryItems)
      .where(and(eq(deliveryItems.deliveryId, delivery.id), eq(deliveryItems.leftOut, false)));
    const total = counts?.total ?? 0;
    let done = counts?.ready ?? 0;
    let whole = true;
    let failed = false;
    const rows = waitingRows(delivery.id, async () => (whole = await goOn()));
    const hand = async () => {
      // One picture is stored while the next is looked at; its row is saved when its bytes are safe.
      let storing = nothingToStore();
      try {
        while (!failed) {
          const { value: next, done: ended } = await rows.next();
          if (ended || !next) break;
          const { row, store } = await lookAt(opened, next.ordinal, unpackItem(next.item), {
            linked: next.link !== null,
            frame,
          });
          await storing;
          storing = store().then(() => saving.add(row));
          storing.catch(() => undefined);
          await progress(++done, total);
        }
        await storing;
      } catch (error) {
        failed = true;
        await storing.catch(() => undefined);
        throw error;
      }
    };
    const hands = await Promise.allSettled(Array.from({ length: settings().imagesAtOnce }, hand));
    // What is done is kept, also where something went wrong.
    await saving.end();
    for (const outcome of hands) if (outcome.status === "rejected") throw outcome.reason;
    return whole;
  } finally {
    opened.close();
  }
}
