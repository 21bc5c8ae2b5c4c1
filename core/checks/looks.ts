/** What came of comparing what objects and images look like, and how it is kept beside a stock that changes. */
import type { Snapshot } from "../snapshot/snapshot";

/** An object, or an image (then its slot stands for it, too), with how sure it is that its label is wrong, 0 … 1. */
export type Doubt = { slot: number; object: number; likely: number; sure: number };
/** An object that lies nearer to another class's centre, by so much of the features' range. */
export type Unlike = { slot: number; object: number; nearer: number };
export type Looks = { labels: readonly Doubt[]; images: readonly Doubt[]; unlike: readonly Unlike[] };

const kinds = ["label", "image", "unlike"] as const;
/** Kind, id of the image and when it changed, the object's place on it, the id of the likely class, how sure or how much nearer. */
const fields = 6;

/** As bytes: double precision, little end first. */
export function packLooks(snapshot: Snapshot, { labels, images, unlike }: Looks): Uint8Array {
  const view = new DataView(new ArrayBuffer(8 * fields * (labels.length + images.length + unlike.length)));
  let at = 0;
  const put = (kind: (typeof kinds)[number], slot: number, place: number, likely: number, value: number) => {
    const row = [kinds.indexOf(kind), snapshot.ids.at(slot), snapshot.changed.at(slot), place, likely, value];
    for (const field of row) {
      view.setFloat64(at, field, true);
      at += 8;
    }
  };
  const placeOf = (slot: number, object: number) => object - snapshot.firstObject.at(slot);
  for (const { slot, object, likely, sure } of labels)
    put("label", slot, placeOf(slot, object), snapshot.classIds[likely] as number, sure);
  for (const { slot, likely, sure } of images) put("image", slot, 0, snapshot.classIds[likely] as number, sure);
  for (const { slot, object, nearer } of unlike) put("unlike", slot, placeOf(slot, object), 0, nearer);
  return new Uint8Array(view.buffer);
}

/** What of it still holds: images that changed since, or went, have nothing said of them. */
export function unpackLooks(snapshot: Snapshot, bytes: Uint8Array): Looks {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const known = new Set(snapshot.classes.map(({ id }) => id));
  const looks = { labels: [] as Doubt[], images: [] as Doubt[], unlike: [] as Unlike[] };
  for (let start = 0; start + 8 * fields <= bytes.length; start += 8 * fields) {
    const field = (n: number) => view.getFloat64(start + 8 * n, true);
    const slot = snapshot.slotOf(field(1));
    if (slot === null || snapshot.present.at(slot) === 0 || snapshot.changed.at(slot) !== field(2)) continue;
    const object = snapshot.firstObject.at(slot) + field(3);
    const kind = kinds[field(0)];
    if (kind === "unlike") looks.unlike.push({ slot, object, nearer: field(5) });
    else if (known.has(field(4))) {
      const doubt = { slot, likely: snapshot.classIndex(field(4)), sure: field(5) };
      if (kind === "label") looks.labels.push({ ...doubt, object });
      else looks.images.push({ ...doubt, object: slot });
    }
  }
  return looks;
}
