import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { batchesOf, goesAlone, sourceOf, type Outgoing } from "./batches";

const file = (path: string, size: number): Outgoing => ({ path, file: { size, name: path } as File, size });

describe("goesAlone", () => {
  it("sends large files and archives in chunks of their own", () => {
    expect(
      [
        file("a.jpg", 1e6),
        file("a.jpg", 9e6),
        file("a.zip", 10),
        file("x/slips.PDF", 10),
        file("labels.json", 1e6),
        file("empty.zip", 0),
      ].map(goesAlone),
    ).toEqual([false, true, true, true, false, false]);
  });
});

describe("batchesOf", () => {
  it("keeps every file once, in order, and no batch above its bounds", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 8 * 1024 * 1024 }), { maxLength: 700 }), (sizes) => {
        const files = sizes.map((size, n) => file(`f${n}`, size));
        const batches = batchesOf(files);
        expect(batches.flat()).toEqual(files);
        for (const batch of batches) {
          expect(batch.length).toBeLessThanOrEqual(250);
          expect(batch.reduce((sum, entry) => sum + entry.size, 0)).toBeLessThanOrEqual(24 * 1024 * 1024);
        }
        // No two neighbours would have fitted into one.
        for (let n = 1; n < batches.length; n++) {
          const [before, after] = [batches[n - 1] ?? [], batches[n] ?? []];
          const bytes = before.reduce((sum, entry) => sum + entry.size, 0) + (after[0]?.size ?? 0);
          expect(before.length === 250 || bytes > 24 * 1024 * 1024).toBe(true);
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe("sourceOf", () => {
  it("is the one file, the one folder, or how many there are", () => {
    expect(sourceOf([file("deep/late-shift.zip", 1)])).toBe("late-shift.zip");
    expect(sourceOf([file("racks/a.jpg", 1), file("racks/b/c.jpg", 1)])).toBe("racks");
    expect(sourceOf([file("racks/a.jpg", 1), file("other/c.jpg", 1)])).toBe("2 files");
    expect(sourceOf(Array.from({ length: 1200 }, (_, n) => file(`p${n}.jpg`, 1)))).toBe("1,200 files");
  });
});
