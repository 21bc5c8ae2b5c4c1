import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Part } from "../model/shape";
import { joinParts } from "./join-parts";
import { convexHull, minimumAreaBox, rotatedBoxFromCorners } from "./minimum-area-box";
import { polygonArea, ringContains } from "./polygon";
import { paintPolygon, polygonToMask } from "./rasterise";
import { connectedRegions } from "./regions";
import { bitmapFromRuns, runsArea, runsFromBitmap } from "./run-length";
import { rotatedBoxCorners } from "./shape";
import { simplifyRing } from "./simplify";
import { maskOutline, traceBitmap, traceMask } from "./trace";

const side = 12;
const bitmaps = fc.uint8Array({ minLength: side * side, maxLength: side * side, max: 1 });

describe("tracing a mask", () => {
  it("gives the outline of a block with a hole, by hand", () => {
    const bits = Uint8Array.from([...".....", ".###.", ".#.#.", ".###.", "....."].join(""), (c) => (c === "#" ? 1 : 0));
    expect(traceBitmap(bits, 5, 5)).toEqual([
      [
        [4, 1, 4, 4, 1, 4, 1, 1],
        [3, 3, 3, 2, 2, 2, 2, 3],
      ],
    ]);
  });
  it("keeps pixels that touch by a corner apart", () => {
    expect(traceBitmap(Uint8Array.from([1, 0, 0, 1]), 2, 2)).toHaveLength(2);
  });
  it("paints back to the same mask, with the same area, whatever the mask", () => {
    fc.assert(
      fc.property(bitmaps, (bits) => {
        const counts = runsFromBitmap(bits, side, side);
        const parts = traceMask(counts, side, side);
        expect(polygonToMask(parts, side, side)).toEqual(counts);
        expect(polygonArea(parts)).toBe(runsArea(counts));
      }),
      { numRuns: 300 },
    );
  });
});

describe("the outline a mask is drawn with", () => {
  it("keeps holes, and stays within its tolerance of a disc's edge with far fewer corners", () => {
    const [size, centre, radius] = [120, 60.5, 40];
    const bits = Uint8Array.from({ length: size * size }, (_, at) => {
      const distance = Math.hypot((at % size) + 0.5 - centre, Math.floor(at / size) + 0.5 - centre);
      return distance < radius && distance > 10 ? 1 : 0;
    });
    const mask = { kind: "mask" as const, width: size, height: size, counts: runsFromBitmap(bits, size, size) };
    const [exact, drawn] = [traceMask(mask.counts, size, size), maskOutline(mask, 0.9)];
    expect(drawn.map((part) => part.length)).toEqual([2]);
    const [outer = []] = drawn[0] ?? [];
    expect(outer.length).toBeLessThan((exact[0]?.[0]?.length ?? 0) / 3);
    // An edge of pixels is up to a pixel's diagonal from the disc's; the drawn corners lie on it.
    for (let i = 0; i < outer.length; i += 2)
      expect(
        Math.abs(Math.hypot((outer[i] as number) - centre, (outer[i + 1] as number) - centre) - radius),
      ).toBeLessThan(Math.SQRT2);
    expect(Math.abs(polygonArea(drawn) - runsArea(mask.counts))).toBeLessThan(0.9 * 2 * Math.PI * (radius + 10));
    expect(maskOutline({ ...mask, counts: [size * size] }, 1)).toEqual([]);
  });
});

describe("painting a polygon", () => {
  it("agrees with asking for each pixel's centre", () => {
    // A centre on an edge to the last digit may fall to either side. Shifts that are no shares of each other keep
    // corners, and slanted edges too, off the centres.
    const shifts = [0.013_738_2, 0.005_971_3] as const;
    const eighths = fc.integer({ min: -16, max: 8 * side + 16 });
    fc.assert(
      fc.property(
        fc
          .array(eighths, { minLength: 6, maxLength: 16 })
          .map((list) =>
            list.slice(0, list.length - (list.length % 2)).map((value, i) => value / 8 + shifts[i % 2 === 0 ? 0 : 1]),
          ),
        (ring) => {
          const bitmap = new Uint8Array(side * side);
          paintPolygon(bitmap, [[ring]], side, side);
          for (let y = 0; y < side; y++)
            for (let x = 0; x < side; x++)
              expect(bitmap[y * side + x] === 1, `${x} ${y}`).toBe(ringContains(ring, x + 0.5, y + 0.5));
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe("regions", () => {
  it("are the ones a flood fill finds, pixel for pixel", () => {
    const maps = fc.uint8Array({ minLength: side * side, maxLength: side * side, max: 3 });
    fc.assert(
      fc.property(maps, (map) => {
        const regions = connectedRegions(map, side, side, new Set([0]));
        const owner = new Int16Array(side * side).fill(-1);
        regions.forEach(({ value, counts }, number) => {
          const bits = bitmapFromRuns(counts, side, side);
          for (let i = 0; i < bits.length; i++) {
            if (!bits[i]) continue;
            expect(map[i]).toBe(value);
            expect(owner[i]).toBe(-1);
            owner[i] = number;
          }
        });
        const seen = new Int16Array(side * side).fill(-1);
        let filled = 0;
        for (let start = 0; start < map.length; start++) {
          if (map[start] === 0 || (seen[start] as number) >= 0) continue;
          const stack = [start];
          seen[start] = filled;
          while (stack.length > 0) {
            const at = stack.pop() as number;
            const [x, y] = [at % side, Math.floor(at / side)];
            for (const [dx, dy] of [
              [-1, -1],
              [0, -1],
              [1, -1],
              [-1, 0],
              [1, 0],
              [-1, 1],
              [0, 1],
              [1, 1],
            ] as const) {
              const [nx, ny] = [x + dx, y + dy];
              const next = ny * side + nx;
              if (
                nx < 0 ||
                ny < 0 ||
                nx >= side ||
                ny >= side ||
                (seen[next] as number) >= 0 ||
                map[next] !== map[start]
              )
                continue;
              seen[next] = filled;
              stack.push(next);
            }
            expect(owner[at]).toBe(owner[start]);
          }
          filled++;
        }
        expect(regions).toHaveLength(filled);
      }),
      { numRuns: 150 },
    );
  });
});

describe("the least rotated box", () => {
  it("is the square itself for a square on its corner", () => {
    const box = minimumAreaBox([5, 0, 10, 5, 5, 10, 0, 5]);
    expect(box?.cx).toBeCloseTo(5, 12);
    expect([box?.width, box?.height].map((length) => length?.toFixed(9))).toEqual([
      Math.hypot(5, 5).toFixed(9),
      Math.hypot(5, 5).toFixed(9),
    ]);
    expect(Math.abs(box?.angle ?? 0)).toBeCloseTo(Math.PI / 4, 12);
  });
  it("holds every point, and no box at any of a thousand angles is smaller", () => {
    const points = fc
      .array(fc.double({ min: 0, max: 100, noNaN: true }), { minLength: 6, maxLength: 40 })
      .map((flat) => flat.slice(0, flat.length - (flat.length % 2)));
    fc.assert(
      fc.property(points, (flat) => {
        const box = minimumAreaBox(flat);
        if (!box) return;
        const extent = (angle: number) => {
          const us: number[] = [];
          const vs: number[] = [];
          for (let i = 0; i < flat.length; i += 2) {
            us.push((flat[i] as number) * Math.cos(angle) + (flat[i + 1] as number) * Math.sin(angle));
            vs.push((flat[i + 1] as number) * Math.cos(angle) - (flat[i] as number) * Math.sin(angle));
          }
          return [Math.max(...us) - Math.min(...us), Math.max(...vs) - Math.min(...vs)] as const;
        };
        const [width, height] = extent(box.angle);
        expect(width).toBeCloseTo(box.width, 6);
        expect(height).toBeCloseTo(box.height, 6);
        for (let n = 0; n < 1000; n++) {
          const [w, h] = extent((n * Math.PI) / 2000);
          expect(w * h).toBeGreaterThanOrEqual(box.width * box.height - 1e-6);
        }
      }),
      { numRuns: 40 },
    );
  });
  it("comes back from its own corners", () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1.5, max: 1.5, noNaN: true }),
        fc.double({ min: 1, max: 50, noNaN: true }),
        fc.double({ min: 1, max: 50, noNaN: true }),
        (angle, width, height) => {
          const shape = { kind: "rotated-box" as const, cx: 60, cy: 70, width, height, angle };
          const back = rotatedBoxFromCorners(rotatedBoxCorners(shape), 1e-6);
          for (const key of ["cx", "cy", "width", "height", "angle"] as const)
            expect(back?.[key]).toBeCloseTo(shape[key], 8);
        },
      ),
    );
    expect(rotatedBoxFromCorners([0, 0, 10, 0, 10, 10, 3, 9], 1)).toBeNull();
    expect(convexHull([0, 0, 4, 0, 4, 4, 0, 4, 2, 2, 1, 3])).toHaveLength(4);
  });
});

describe("joining parts", () => {
  it("goes over the shortest bridge and keeps the area, whichever way the rings run", () => {
    const parts: Part[] = [[[0, 0, 10, 0, 10, 10, 0, 10]], [[14, 0, 14, 10, 20, 10, 20, 0]], [[0, 30, 5, 30, 5, 35]]];
    const [ring] = joinParts(parts);
    expect(polygonArea([[ring ?? []]])).toBe(polygonArea(parts));
    // From the right edge of the first to the left edge of the second.
    expect(JSON.stringify(ring)).toMatch(/10,(0|10),14,\1/);
    expect(joinParts(parts.slice(0, 1))).toEqual(parts[0]);
  });
});

describe("simplifying", () => {
  it("drops what lies on a line and nothing else", () => {
    expect(simplifyRing([0, 0, 5, 0, 10, 0, 10, 10, 0, 10], 0.1)).toEqual([0, 0, 10, 0, 10, 10, 0, 10]);
  });
  it("never leaves a corner further off than it was told", () => {
    const ring = Array.from({ length: 200 }, (_, n) => {
      const angle = (n / 200) * 2 * Math.PI;
      const radius = 40 + 4 * Math.sin(9 * angle);
      return [50 + radius * Math.cos(angle), 50 + radius * Math.sin(angle)];
    }).flat();
    for (const tolerance of [0.2, 1, 3]) {
      const simple = simplifyRing(ring, tolerance);
      expect(simple.length).toBeLessThan(ring.length);
      for (let i = 0; i < ring.length; i += 2) {
        let nearest = Infinity;
        for (let j = 0; j < simple.length; j += 2) {
          const [ax, ay, bx, by] = [
            simple[j],
            simple[j + 1],
            simple[(j + 2) % simple.length],
            simple[(j + 3) % simple.length],
          ] as [number, number, number, number];
          const share = Math.min(
            1,
            Math.max(
              0,
              (((ring[i] as number) - ax) * (bx - ax) + ((ring[i + 1] as number) - ay) * (by - ay)) /
                ((bx - ax) ** 2 + (by - ay) ** 2),
            ),
          );
          nearest = Math.min(
            nearest,
            Math.hypot((ring[i] as number) - ax - share * (bx - ax), (ring[i + 1] as number) - ay - share * (by - ay)),
          );
        }
        expect(nearest).toBeLessThanOrEqual(tolerance + 1e-9);
      }
    }
  });
});
