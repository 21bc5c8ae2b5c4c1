/** A snapshot whose images get other labels and sizes, one after the other, as while people work on a stock. */
import fc from "fast-check";
import type { Snapshot } from "../snapshot/snapshot";
import { blankImage } from "./small-snapshot";

type Box = { classId: number; x: number; y: number; width: number; height: number };
/** What an image of an id comes to: its size, and its objects. */
export type ImageChange = { id: number; size: number; boxes: Box[] };

const pixels = fc.integer({ min: 0, max: 40 });
const box = fc.record({
  classId: fc.integer({ min: 1, max: 4 }),
  ...{ x: pixels, y: pixels, width: pixels, height: pixels },
});

/** Changes of images with ids from 1 to `images`; the first ones put each of them in. */
export const imageChanges = (images: number): fc.Arbitrary<ImageChange[]> =>
  fc
    .array(
      fc.record({
        id: fc.integer({ min: 1, max: images }),
        size: fc.constantFrom(0, 100, 200),
        boxes: fc.array(box, { maxLength: 4 }),
      }),
      { maxLength: 20 },
    )
    .map((changes) => [...Array.from({ length: images }, (_, n) => ({ id: n + 1, size: 100, boxes: [] })), ...changes]);

export function changeImage(snapshot: Snapshot, { id, size, boxes }: ImageChange): void {
  const slot = snapshot.putImage({ ...blankImage, id, hash: new Uint8Array(32), width: size, height: size });
  for (const one of boxes) {
    snapshot.pushObject({
      ...{ ...one, id: snapshot.objectClass.length + 1, area: one.width * one.height },
      ...{ confidence: Number.NaN, attributes: null, shape: 0, flags: 0 },
    });
    snapshot.countObject(slot);
  }
}
