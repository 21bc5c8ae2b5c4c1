/**
 * A version as a snapshot: its outputs as they were frozen, each once, without the copies that were made of them. Boxes
 * are in pixels of the outputs.
 */
import type { Picture } from "../checks/shown-finding";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { kindsOfFields } from "../model/field-kinds";
import { shapeKinds } from "../model/shape";
import { renderKey, type ManifestHeader, type ReadLine } from "../versions/manifest";
import { flagBits, noSuggestions, Snapshot } from "./snapshot";

export type VersionStock = {
  snapshot: Snapshot;
  slots: Uint32Array;
  /** Of images in stock the id that their output has in this snapshot; of several tiles the first one's. */
  ids: Map<number, number>;
  pictureOf: (slot: number) => Picture;
};

/** Where an image of the stock is in its snapshot, by the hash of its bytes; undefined where it is not there. */
type SlotOfHash = (hash: string) => number | undefined;

const bytesOf = (hex: string) =>
  Uint8Array.from({ length: hex.length / 2 }, (_, at) => Number.parseInt(hex.slice(at * 2, at * 2 + 2), 16));

/** Takes a manifest's lines in their order. */
export class VersionSnapshot {
  private readonly snapshot = new Snapshot();
  private readonly pictures: Picture[] = [];
  private readonly ids = new Map<number, number>();
  private readonly idOf: Map<string, number>;
  /** Of a source and its tile the id of its output. */
  private readonly idOfTile = new Map<string, number>();
  private last = "";

  constructor(
    private readonly stock: Snapshot,
    private readonly slotOf: SlotOfHash,
    private readonly header: ManifestHeader,
  ) {
    const standing = new Map(stock.classes.map((one) => [one.name, one]));
    this.snapshot.classes = header.classes.map(({ name }, n) => {
      return standing.get(name) ?? { id: -1 - n, name, colour: n, code: "" };
    });
    this.snapshot.deliveries = stock.deliveries;
    this.snapshot.declaredAttributes = stock.declaredAttributes;
    this.idOf = new Map(this.snapshot.classes.map(({ id, name }) => [name, id]));
  }

  add(line: ReadLine): void {
    const { source, tile, size, made } = line;
    const output = `${source} ${(tile ?? []).join(" ")}`;
    // Copies follow what they are copies of.
    if (output === this.last) return;
    this.last = output;
    const { stock, snapshot } = this;
    const slot = this.slotOf(source);
    const image = slot === undefined ? null : stock.ids.at(slot);
    const id = snapshot.length + 1;
    this.idOfTile.set(output, id);
    if (image !== null && !this.ids.has(image)) this.ids.set(image, id);
    this.pictures.push({ image, rendering: made ? renderKey(line, this.header.images) : null });
    const near = slot === undefined ? [] : stock.nearCopiesIn(slot).map((other) => stock.hashOf(other));
    snapshot.putImage({
      ...{ id, hash: bytesOf(source), split: line.split, state: line.state, name: line.name },
      ...{ width: size.width, height: size.height, bytes: 0, pinned: false, present: true, turned: false },
      ...{ classes: line.classes.map((name) => this.idOf.get(name) ?? 0), captions: line.captions },
      ...{ delivery: slot === undefined ? 0 : (stock.deliveryIds[stock.delivery.at(slot)] ?? 0) },
      ...{ day: slot === undefined ? "" : stock.days.textOf(stock.day.at(slot)), place: "" },
      ...{ taken: slot === undefined ? Number.NaN : stock.taken.at(slot), arrived: 0, changed: 0 },
      ...{ tags: [], findings: [], attributes: null, suggestions: noSuggestions },
      fieldKinds: kindsOfFields(line.fields),
      // Each other's: what comes later names what came before.
      nearCopies: near.flatMap((hash) => this.idOfTile.get(`${hash} ${(tile ?? []).join(" ")}`) ?? []),
    });
    for (const object of line.objects) {
      const box = shapeBounds(object.shape);
      if (!box) continue;
      const { crowd, occluded, truncated, difficult } = object;
      const flags = Object.entries({ crowd, occluded, truncated, difficult }).reduce(
        (sum, [name, is]) => sum + (is ? flagBits[name as keyof typeof flagBits] : 0),
        0,
      );
      snapshot.pushObject({
        ...{ id: snapshot.objectClass.length + 1, classId: this.idOf.get(object.class) ?? 0, ...box },
        ...{ area: shapeArea(object.shape), confidence: object.confidence ?? Number.NaN, flags },
        ...{ shape: shapeKinds.indexOf(object.shape.kind) },
        attributes: object.attributes ? JSON.stringify(object.attributes) : null,
        keypoints: object.shape.kind === "keypoints" ? object.shape.points : null,
      });
      snapshot.countObject(snapshot.length - 1);
    }
  }

  finished(): VersionStock {
    const { snapshot, ids, pictures } = this;
    const slots = Uint32Array.from({ length: snapshot.length }, (_, slot) => slot);
    return { snapshot, slots, ids, pictureOf: (slot) => pictures[slot] ?? { image: null, rendering: null } };
  }
}
