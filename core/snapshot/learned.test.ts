import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { featureLength } from "../learning/features";
import { packFeatures } from "../learning/image-features";
import { blankImage, smallSnapshot } from "../tests/small-snapshot";
import { Learned } from "./learned";
import { Snapshot } from "./snapshot";

const look = (level: number) => new Uint8Array(featureLength).fill(level);
const boxAt = (x: number) => ({ x, y: 0, width: 5, height: 5 });

/** What happens to a stock: an image gets labels (class by place), or looks (level by place), or goes to the bin and back. */
const happening = fc.oneof(
  fc.record({ labels: fc.array(fc.tuple(fc.nat({ max: 4 }), fc.nat({ max: 2 })), { maxLength: 4 }) }),
  fc.record({ looks: fc.array(fc.tuple(fc.nat({ max: 4 }), fc.nat({ max: 255 })), { maxLength: 5 }) }),
  fc.record({ bin: fc.boolean() }),
);
type Happening = typeof happening extends fc.Arbitrary<infer T> ? T : never;

class Stock {
  readonly snapshot = new Snapshot();
  readonly learned = new Learned();
  private readonly images = new Map<number, { labels: [number, number][]; present: boolean }>();
  private readonly looks = new Map<number, Uint8Array>();
  private made = 0;

  constructor(images: number) {
    for (let id = 1; id <= images; id++) this.put(id, { labels: [], present: true });
  }

  private put(id: number, image: { labels: [number, number][]; present: boolean }): void {
    this.images.set(id, image);
    const slot = this.snapshot.putImage({ ...blankImage, id, hash: new Uint8Array(32), present: image.present });
    for (const [place, index] of image.labels) {
      this.snapshot.pushObject({
        ...{ id: this.snapshot.objectClass.length + 1, classId: index + 1, ...boxAt(place), area: 25 },
        ...{ confidence: Number.NaN, attributes: null, shape: 0, flags: 0, keypoints: null },
      });
      this.snapshot.countObject(slot);
    }
    this.snapshot.revision++;
  }

  happen(id: number, what: Happening): void {
    const image = this.images.get(id) ?? { labels: [], present: true };
    if ("labels" in what) this.put(id, { ...image, labels: what.labels });
    else if ("bin" in what) this.put(id, { ...image, present: !what.bin });
    else {
      const boxes = what.looks.map(([place, level]) => ({ box: boxAt(place), features: look(level) }));
      this.looks.set(id, packFeatures(look(0), boxes));
      this.learned.put(id, this.looks.get(id) as Uint8Array, ++this.made);
    }
  }

  /** How far each object that is in stock stands out. */
  standing(learned = this.learned): { own: number[]; other: number[] } {
    const objects = Array.from({ length: this.snapshot.length }, (_, slot) => slot).flatMap((slot) =>
      Array.from({ length: this.snapshot.objectCount.at(slot) }, (_, n) => this.snapshot.firstObject.at(slot) + n),
    );
    const rounded = (values: Float32Array) => Array.from(values, (value) => Math.round(value * 1e5) / 1e5 + 0);
    return {
      own: rounded(learned.objectsFromCentre(this.snapshot, objects)),
      other: rounded(learned.objectsFromOthers(this.snapshot, objects)),
    };
  }

  /** The same from all that is known now, read at once. */
  standingAnew(): { own: number[]; other: number[] } {
    const anew = new Learned();
    for (const [id, packed] of this.looks) anew.put(id, packed, 1);
    return this.standing(anew);
  }
}

describe("what objects look like", () => {
  it("is kept up with every change as if all were read anew", () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 5 }), happening), { maxLength: 30 }), (happenings) => {
        const stock = new Stock(5);
        for (const [id, what] of happenings) {
          stock.happen(id, what);
          expect(stock.standing()).toEqual(stock.standingAnew());
        }
      }),
      { numRuns: 60 },
    );
  });
  it("is said by how far from the mean of the class, and how much nearer to it than to another", () => {
    const stock = new Stock(2);
    stock.happen(1, {
      labels: [
        [0, 0],
        [1, 0],
        [2, 1],
      ],
    });
    expect(stock.standing().own).toEqual([NaN, NaN, NaN]);
    stock.happen(1, {
      looks: [
        [0, 10],
        [1, 30],
        [2, 60],
      ],
    });
    // So many levels in each of 128 numbers, over the farthest there can be.
    const levels = (count: number) => (count * Math.sqrt(128)) / (255 * Math.sqrt(10));
    const { own, other } = stock.standing();
    [10, 10, 0].forEach((wanted, n) => expect(own[n]).toBeCloseTo(levels(wanted), 4));
    [50 - 10, 30 - 10, 40].forEach((wanted, n) => expect(other[n]).toBeCloseTo(levels(wanted), 4));
  });
  it("is known of images that go by other ids", () => {
    const snapshot = smallSnapshot(["roll"], [{}, {}]);
    const learned = new Learned();
    learned.put(7, packFeatures(look(9), []), 3, { brightness: 1, contrast: 2, cast: 3, sharpness: 4, burnt: 5 });
    const other = learned.under(
      new Map([
        [7, 2],
        [8, 1],
      ]),
    );
    expect([other.imagePlace(snapshot, 0), other.madeOf(snapshot, 0), other.madeOf(snapshot, 1)]).toEqual([-1, 0, 3]);
    expect(other.measuresOf(snapshot).contrast).toEqual(Float64Array.of(NaN, 2));
    expect([...learned.imagesFrom(snapshot, [7])]).toEqual([NaN, NaN]);
    expect([...other.imagesFrom(snapshot, [2])]).toEqual([NaN, 0]);
  });
});
