import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hashDistance } from "../checks/near-copies";
import { greySpots } from "./grey-spots";
import { hashedEdge, perceptualHash } from "./perceptual-hash";

const bytes = (hash: string) => Buffer.from(hash, "hex");
const image = (value: (x: number, y: number) => number) =>
  Array.from({ length: hashedEdge ** 2 }, (_, i) => value(i % hashedEdge, Math.floor(i / hashedEdge)));

/** The transform straight from its definition, four loops deep. */
function slowly(grey: number[]): string {
  const all: number[] = [];
  for (let l = 0; l < 16; l++) {
    for (let k = 0; k < 16; k++) {
      let sum = 0;
      for (let y = 0; y < 32; y++)
        for (let x = 0; x < 32; x++)
          sum +=
            (grey[y * 32 + x] as number) *
            Math.cos(((2 * x + 1) * k * Math.PI) / 64) *
            Math.cos(((2 * y + 1) * l * Math.PI) / 64);
      all.push(Math.abs(sum) < 1e-6 ? 0 : sum);
    }
  }
  const median = all.slice(1).sort((a, b) => a - b)[127] as number;
  const bits = all.map((value, n) => (n > 0 && value > median ? 1 : 0));
  return Array.from({ length: 64 }, (_, n) =>
    bits
      .slice(n * 4, n * 4 + 4)
      .reduce<number>((sum, bit) => sum * 2 + bit, 0)
      .toString(16),
  ).join("");
}

describe("perceptualHash", () => {
  it("of one grey holds nothing, whatever the grey", () => {
    for (const level of [0, 7, 128, 255]) expect(perceptualHash(image(() => level))).toBe("0".repeat(64));
  });
  it("of a single wave is one bit, worked out by hand", () => {
    // A wave of frequency 3 across and 0 down: the fourth bit of the first row.
    expect(perceptualHash(image((x) => 128 + 100 * Math.cos((Math.PI * (x + 0.5) * 3) / 32)))).toBe(
      `1${"0".repeat(63)}`,
    );
    // Frequency 1 across and 2 down: the second bit of the third row.
    expect(
      perceptualHash(
        image((x, y) => 128 + 100 * Math.cos((Math.PI * (x + 0.5)) / 32) * Math.cos((Math.PI * (y + 0.5) * 2) / 32)),
      ),
    ).toBe(`${"0".repeat(8)}4${"0".repeat(55)}`);
  });
  it("is what the definition gives, and does not change with contrast and brightness", () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 1024, maxLength: 1024 }),
        fc.double({ min: 0.2, max: 3, noNaN: true }),
        fc.integer({ min: -50, max: 50 }),
        (grey, contrast, brightness) => {
          const hash = perceptualHash(grey);
          expect(hash).toBe(slowly(grey));
          expect(
            hashDistance(bytes(hash), bytes(perceptualHash(grey.map((value) => value * contrast + brightness)))),
          ).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 12 },
    );
  });
});

describe("greySpots", () => {
  it("are the pixels themselves of a picture of that size, and means of larger ones, by hand", () => {
    const grey = Uint8Array.from({ length: 1024 }, (_, i) => i % 256);
    expect([...greySpots(grey, 32, 32, 1)]).toEqual([...grey]);
    // Two by two pixels a spot: 0, 100, 200 and 100 make 100.
    const four = Uint8Array.from(
      { length: 64 * 64 },
      (_, i) => [0, 100, 100, 200][(i % 2) + 2 * (Math.floor(i / 64) % 2)] as number,
    );
    expect(new Set(greySpots(four, 64, 64, 1))).toEqual(new Set([100]));
  });
  it("weigh red, green and blue, and leave alpha aside", () => {
    const of = (...pixel: number[]) =>
      greySpots(
        Uint8Array.from({ length: 1024 * pixel.length }, (_, i) => pixel[i % pixel.length] as number),
        32,
        32,
        pixel.length,
      )[500];
    expect(of(255, 0, 0)).toBeCloseTo(76.245, 6);
    expect(of(0, 255, 0, 7)).toBeCloseTo(149.685, 6);
    expect(of(0, 0, 255)).toBeCloseTo(29.07, 6);
    expect(of(90, 3)).toBe(90);
  });
  it("fill every spot of a picture smaller than they are, and of a large one", () => {
    for (const [width, height] of [
      [1, 1],
      [5, 40],
      [400, 3],
      [400, 300],
    ] as const)
      expect(
        new Set(greySpots(new Uint8Array(width * height).fill(77), width, height, 1)),
        `${width} × ${height}`,
      ).toEqual(new Set([77]));
  });
});
