import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { measuresLength, packMeasures, pictureMeasures, unpackMeasures } from "./measures";

/** A picture of one grey value a pixel, three channels. */
const grey = (width: number, values: readonly number[]) => ({
  data: Uint8Array.from(values.flatMap((value) => [value, value, value])),
  ...{ width, height: values.length / width, channels: 3 },
});

describe("what a picture is like", () => {
  it("is worked out by hand on three by three pixels", () => {
    // One bright pixel of 90 in the middle of black: Laplacian −360 there, and no other pixel has four neighbours.
    const spot = pictureMeasures(grey(3, [0, 0, 0, 0, 90, 0, 0, 0, 0]));
    expect(spot.brightness).toBeCloseTo(10, 9);
    // Variance (8 · 10² + 80²) / 9 = 800.
    expect(spot.contrast).toBeCloseTo(Math.sqrt(800), 9);
    expect(spot).toMatchObject({ cast: 0, sharpness: 0, burnt: 0 });
    // 4 × 3: Laplacians of the two inner pixels are −360 and 90, their mean −135, their variance 225².
    const edge = pictureMeasures(grey(4, [0, 0, 0, 0, 0, 90, 0, 0, 0, 0, 0, 0]));
    expect(edge.sharpness).toBeCloseTo(225 ** 2, 6);
  });
  it("knows cast and burnt pixels, in one channel and in four", () => {
    const red = { data: Uint8Array.of(200, 100, 100, 7, 255, 250, 252, 7), width: 2, height: 1, channels: 4 };
    const measures = pictureMeasures(red);
    expect(measures.cast).toBeCloseTo(227.5 - 175, 9);
    expect(measures.burnt).toBe(0.5);
    expect(measures.brightness).toBeCloseTo(0.2126 * 227.5 + 0.7152 * 175 + 0.0722 * 176, 9);
    const single = pictureMeasures({ data: Uint8Array.of(10, 30), width: 2, height: 1, channels: 1 });
    expect([single.brightness, single.contrast, single.cast, single.sharpness]).toEqual(
      [20, 10, 0, 0].map((n): unknown => expect.closeTo(n, 9)),
    );
  });
  it("is the same but for its sharpness and place, whichever way it is turned over", () => {
    const pictures = fc.array(fc.nat(255), { minLength: 20, maxLength: 20 });
    fc.assert(
      fc.property(pictures, (values) => {
        const [there, back] = [pictureMeasures(grey(5, values)), pictureMeasures(grey(5, [...values].reverse()))];
        for (const name of ["brightness", "contrast", "cast", "sharpness", "burnt"] as const)
          expect(back[name]).toBeCloseTo(there[name], 6);
      }),
    );
  });
  it("keeps its measures as bytes, to single precision", () => {
    const measures = { brightness: 12.5, contrast: 3.25, cast: 0.5, sharpness: 1e6, burnt: 0.25 };
    const bytes = packMeasures(measures);
    expect(bytes.length).toBe(measuresLength);
    expect(unpackMeasures(bytes)).toEqual(measures);
    expect(unpackMeasures(bytes.subarray(4))).toBeNull();
  });
});
