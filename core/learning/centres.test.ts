import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { centreNumbers, FeatureSums } from "./centres";
import { featureDistance, featureLength } from "./features";
import { FeatureStore } from "./feature-store";

const level = (value: number) => new Uint8Array(featureLength).fill(value);
/** So many levels in each of 128 numbers, over the farthest there can be. */
const levels = (count: number) => (count * Math.sqrt(128)) / (255 * Math.sqrt(10));
const feature = fc.uint8Array({ minLength: featureLength, maxLength: featureLength });

describe("features", () => {
  it("lie where they were put, however many come", () => {
    const store = new FeatureStore();
    const places = Array.from({ length: 3000 }, (_, n) => store.append(level(n % 256)));
    expect(new Set(places).size).toBe(3000);
    expect(places[0]).toBeGreaterThan(0);
    places.forEach((place, n) => {
      expect(store.bytes[place]).toBe(n % 256);
      expect(store.bytes[place + featureLength - 1]).toBe(n % 256);
    });
  });
  it("are as far from the nearest of some as it is", () => {
    const store = new FeatureStore();
    const places = Int32Array.from([10, 20, 200], (value) => store.append(level(value)));
    const [a, b, c] = places as unknown as [number, number, number];
    const away = store.fromNearest(Int32Array.of(a, b, c, -1), Int32Array.of(b, c));
    [10, 0, 0].forEach((wanted, n) => expect(away[n]).toBeCloseTo(levels(wanted), 6));
    expect(away[3]).toBeNaN();
    expect([...store.fromNearest(places, new Int32Array(0))]).toEqual([NaN, NaN, NaN]);
  });
});

describe("centres", () => {
  it("are the means of what is there, and follow what joins and leaves", () => {
    const store = new FeatureStore();
    const [ten, twenty] = [store.append(level(10)), store.append(level(20))];
    const sums = new FeatureSums(store);
    sums.add(Int32Array.of(ten, twenty, -1, twenty), Int32Array.of(1, 1, 2, 4));
    const shown = () => {
      const { means, numberOf } = sums.means();
      return [...numberOf].map((number) => (number < 0 ? null : means[number * featureLength + 127]));
    };
    expect(shown()).toEqual([null, 15, null, null, 20]);
    expect([...centreNumbers(sums.means(), Int32Array.of(4, 1, 0, 9, -1))]).toEqual([1, 0, -1, -1, -1]);
    sums.add(Int32Array.of(twenty), Int32Array.of(1), -1);
    sums.add(Int32Array.of(twenty), Int32Array.of(4), -1);
    sums.add(Int32Array.of(twenty), Int32Array.of(6));
    expect(shown()).toEqual([null, 10, null, null, null, null, 20]);
  });

  it("are nearer or farther than the own one by the difference of the distances", () => {
    const store = new FeatureStore();
    const [ten, twenty, most] = [10, 20, 200].map((value) => store.append(level(value))) as [number, number, number];
    const centres = Float32Array.from([15, 200, 30].flatMap((value) => [...level(value)]));
    const places = Int32Array.of(ten, twenty, most, -1, ten, twenty);
    const own = Int32Array.of(0, 0, 1, 0, -1, 2);
    const expectAll = (found: Float32Array, wanted: number[]) =>
      wanted.forEach((one, n) =>
        Number.isNaN(one) ? expect(found[n]).toBeNaN() : expect(found[n]).toBeCloseTo(levels(one), 6),
      );
    expectAll(store.fromOwn(places, own, centres), [5, 5, 0, NaN, NaN, 10]);
    expectAll(store.fartherThanOwn(places, own, centres), [20 - 5, 10 - 5, 170 - 0, NaN, NaN, 5 - 10]);
    expect(store.fartherThanOwn(Int32Array.of(ten), Int32Array.of(0), centres.subarray(0, 128))[0]).toBeNaN();
  });

  it("are compared with any features as a plain sum says", () => {
    fc.assert(
      fc.property(fc.array(feature, { minLength: 3, maxLength: 6 }), (list) => {
        const store = new FeatureStore();
        const places = Int32Array.from(list, (one) => store.append(one));
        // The centre of each one's group is the next one.
        const next = list.map((_, n) => list[(n + 1) % list.length] as Uint8Array);
        const centres = Float32Array.from(next.flatMap((one) => [...one]));
        const own = Int32Array.from(list, (_, n) => n);
        const [from, farther] = [store.fromOwn(places, own, centres), store.fartherThanOwn(places, own, centres)];
        list.forEach((one, n) => {
          const away = next.map((centre) => featureDistance(one, 0, centre, 0));
          const others = away.filter((_, key) => key !== n);
          expect(from[n]).toBeCloseTo(away[n] as number, 5);
          expect(farther[n]).toBeCloseTo(Math.min(...others) - (away[n] as number), 5);
          const nearest = store.fromNearest(
            places.subarray(n, n + 1),
            places.filter((_, key) => key !== n),
          )[0];
          const plain = list.filter((_, key) => key !== n).map((other) => featureDistance(one, 0, other, 0));
          expect(nearest).toBeCloseTo(Math.min(...plain), 5);
        });
      }),
      { numRuns: 50 },
    );
  });
});
