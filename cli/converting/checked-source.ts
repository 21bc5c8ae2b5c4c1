/** A source as checks take it: a snapshot of its images and objects, with what they look like beside it. */
import { shapeArea, shapeBounds } from "@larder/core/geometry/shape";
import { imageFeatures } from "@larder/core/learning/image-features";
import { pictureMeasures, type PictureMeasures } from "@larder/core/learning/measures";
import { kindsOfFields } from "@larder/core/model/field-kinds";
import type { ClassInfo, Item } from "@larder/core/model/item";
import { Failure } from "@larder/core/model/failure";
import type { Findings } from "@larder/core/model/finding";
import { hexOf, sha256 } from "@larder/core/model/sha256";
import type { Flow } from "@larder/core/plans/flow";
import { shapeKinds } from "@larder/core/selection/fields";
import { Learned } from "@larder/core/snapshot/learned";
import { outcomeOf, type Outcome } from "@larder/core/snapshot/outcome";
import { slottedStock } from "@larder/core/snapshot/plan-input";
import { noSuggestions, Snapshot } from "@larder/core/snapshot/snapshot";
import { decodedThumbnail, thumbnailAndNearHash } from "@larder/server/pixels/thumbnail";
import { nearCopiesOf } from "./near-copies-of";
import type { FoundItem } from "./settled-items";

type Row = {
  item: Item;
  width: number;
  height: number;
  turned: boolean;
  bytes: number;
  hash: Uint8Array;
  nearHash: string;
  features: Uint8Array;
  measures: PictureMeasures;
};

const boxesOf = (item: Item) => item.objects.flatMap(({ shape }) => shapeBounds(shape) ?? []);

export class CheckedSource {
  private readonly rows: Row[] = [];

  /** `means`: which items are looked at; all where it is null. */
  constructor(
    private readonly maxPixels: number,
    private readonly report: Findings,
    private readonly means: ((found: FoundItem) => boolean) | null = null,
  ) {}

  /**
   * Takes an item in and returns the perceptual hash of its picture; null, and said to the report, where that is missing
   * or cannot be decoded.
   */
  async add(found: FoundItem): Promise<string | null> {
    const { item, facts, bytes } = found;
    if (!facts || !bytes) return null;
    const { width, height, orientation } = facts;
    try {
      const { nearHash, thumbnail } = await thumbnailAndNearHash(bytes, this.maxPixels);
      if (this.means?.(found) === false) return nearHash;
      const pixels = await decodedThumbnail(thumbnail, this.maxPixels);
      this.rows.push({
        ...{ item, width, height, turned: orientation !== 1, bytes: bytes.length, hash: sha256(bytes), nearHash },
        features: imageFeatures(pixels, { width, height }, boxesOf(item)),
        measures: pictureMeasures(pixels),
      });
      return nearHash;
    } catch (error) {
      // Its head could be read, its pixels cannot.
      if (!(error instanceof Failure)) throw error;
      this.report.add("image-unreadable", item.path, error.message);
      return null;
    }
  }

  /** Of images with the same bytes only the one at a path stays. */
  keepOnly(paths: ReadonlyMap<string, string>): void {
    const kept = this.rows.filter(({ hash, item }) => paths.get(hexOf(hash)) === item.path);
    this.rows.splice(0, this.rows.length, ...kept);
  }

  /** What a plan leaves of what was taken in. */
  outcome(known: readonly ClassInfo[], flow: Flow): Outcome {
    const snapshot = this.snapshot(known);
    return outcomeOf(snapshot, slottedStock(snapshot), flow);
  }

  /** What was taken in, images with ids from 1 in the order they came. */
  snapshot(known: readonly ClassInfo[]): Snapshot {
    const snapshot = new Snapshot();
    const infos = new Map(known.map((info) => [info.name, info]));
    const names = new Set(infos.keys());
    for (const { item } of this.rows)
      for (const name of [...item.classes, ...item.objects.map((object) => object.class)]) names.add(name);
    const ids = new Map([...names].map((name, n) => [name, n + 1]));
    const idOf = (name: string) => ids.get(name) ?? 0;
    snapshot.classes = [...names].map((name, n) => {
      const { keypoints, pairs } = infos.get(name) ?? {};
      return { id: n + 1, name, colour: n, code: "", keypoints, pairs };
    });
    const near = nearCopiesOf(this.rows.map(({ nearHash }) => nearHash));
    const learned = new Learned();
    this.rows.forEach(({ item, features, measures, ...row }, n) => {
      snapshot.putImage({
        ...{ id: n + 1, hash: row.hash, delivery: 1, split: item.split, state: item.state },
        ...{ width: row.width, height: row.height, bytes: row.bytes, pinned: false, present: true, day: "", place: "" },
        ...{ tags: [], classes: item.classes.map(idOf), name: item.path, taken: Number.NaN },
        ...{ arrived: 0, changed: 0, turned: row.turned, captions: [], findings: [], attributes: null },
        fieldKinds: kindsOfFields(item.fields),
        ...{ nearCopies: (near.get(n) ?? []).map((other) => other + 1), suggestions: noSuggestions },
      });
      for (const { class: name, shape, attributes } of item.objects) {
        const box = shapeBounds(shape);
        if (!box) continue;
        snapshot.pushObject({
          ...{ id: snapshot.objectClass.length + 1, classId: idOf(name), ...box, area: shapeArea(shape) },
          ...{ confidence: Number.NaN, shape: shapeKinds.indexOf(shape.kind), flags: 0 },
          attributes: attributes ? JSON.stringify(attributes) : null,
          keypoints: shape.kind === "keypoints" ? shape.points : null,
        });
        snapshot.countObject(n);
      }
      learned.put(n + 1, features, n + 1, measures);
    });
    snapshot.learned = learned;
    return snapshot;
  }
}
