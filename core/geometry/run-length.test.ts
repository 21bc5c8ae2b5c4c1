import fc from "fast-check";
import { describe, expect, it } from "vitest";
import {
  bitmapFromRuns,
  bitmapOfPiece,
  decodeCounts,
  encodeCounts,
  resizeCanvas,
  runsArea,
  runsBounds,
  runsFromBitmap,
  runsOfPiece,
} from "./run-length";

/** The published definition, followed word by word and not for speed. */
function encodedByDefinition(counts: number[]): string {
  return counts
    .map((count, i) => {
      let rest = count - (i > 2 ? (counts[i - 2] as number) : 0);
      let text = "";
      for (;;) {
        const low = ((rest % 32) + 32) % 32;
        rest = (rest - low) / 32;
        const last = (rest === 0 && low < 16) || (rest === -1 && low >= 16);
        text += String.fromCharCode(48 + low + (last ? 0 : 32));
        if (last) return text;
      }
    })
    .join("");
}

const bitmap = fc
  .tuple(fc.integer({ min: 1, max: 14 }), fc.integer({ min: 1, max: 14 }))
  .chain(([width, height]) =>
    fc
      .array(fc.boolean(), { minLength: width * height, maxLength: width * height })
      .map((bits) => ({ width, height, bits: Uint8Array.from(bits, Number) })),
  );

describe("compressed counts", () => {
  it("are worked out by hand for a few", () => {
    // 5 → "5"; 16 needs a second group for its sign: low 10000 with more, then 0.
    expect(encodeCounts([5])).toBe("5");
    expect(encodeCounts([16])).toBe("`0");
    expect(encodeCounts([0, 3, 2, 1])).toBe("032N");
    expect(decodeCounts("032N")).toEqual([0, 3, 2, 1]);
  });
  it("follow the published definition and come back", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(3_000_000), { maxLength: 40 }), (counts) => {
        const text = encodeCounts(counts);
        expect(text).toBe(encodedByDefinition(counts));
        expect(decodeCounts(text)).toEqual(counts);
      }),
    );
  });
  it("refuse what is not a whole string of groups", () => {
    expect(decodeCounts("P")).toBeNull();
    expect(decodeCounts("\u0001")).toBeNull();
    expect(decodeCounts("N")).toBeNull();
  });
});

describe("a mask on another canvas", () => {
  it("is cut and padded as its bitmap would be", () => {
    const sides = fc.integer({ min: 1, max: 9 });
    fc.assert(
      fc.property(
        sides,
        sides,
        sides,
        sides,
        fc.array(fc.boolean(), { minLength: 81, maxLength: 81 }),
        (w, h, W, H, bits) => {
          const bitmap = Uint8Array.from(bits.slice(0, w * h), Number);
          const target = new Uint8Array(W * H);
          for (let y = 0; y < Math.min(h, H); y++)
            for (let x = 0; x < Math.min(w, W); x++) target[y * W + x] = bitmap[y * w + x] as number;
          const resized = resizeCanvas(runsFromBitmap(bitmap, w, h), { width: w, height: h }, { width: W, height: H });
          expect(resized).toEqual(runsFromBitmap(target, W, H));
        },
      ),
    );
  });
  it("is cut from a canvas of thousands of millions of pixels without filling it", () => {
    const side = 2 ** 20;
    expect(resizeCanvas([side * side - 1, 1], { width: side, height: side }, { width: 4, height: 3 })).toEqual([12]);
    expect(resizeCanvas([0, side * side], { width: side, height: side }, { width: 4, height: 3 })).toEqual([0, 12]);
  });
});

describe("runs", () => {
  it("go column by column and start with background", () => {
    // Two rows, three columns: only the top right pixel is set.
    expect(runsFromBitmap(Uint8Array.from([0, 0, 1, 0, 0, 0]), 3, 2)).toEqual([4, 1, 1]);
    expect(runsFromBitmap(Uint8Array.from([1, 0, 0, 0, 0, 0]), 3, 2)).toEqual([0, 1, 5]);
  });
  it("say the same as the bitmap they came from", () => {
    fc.assert(
      fc.property(bitmap, ({ width, height, bits }) => {
        const runs = runsFromBitmap(bits, width, height);
        expect([...bitmapFromRuns(runs, width, height)]).toEqual([...bits]);
        expect(runsArea(runs)).toBe(bits.reduce((a, b) => a + b, 0));
        const xs: number[] = [];
        const ys: number[] = [];
        bits.forEach((bit, at) => {
          if (!bit) return;
          xs.push(at % width);
          ys.push(Math.floor(at / width));
        });
        const bounds =
          xs.length === 0
            ? null
            : {
                x: Math.min(...xs),
                y: Math.min(...ys),
                width: Math.max(...xs) - Math.min(...xs) + 1,
                height: Math.max(...ys) - Math.min(...ys) + 1,
              };
        expect(runsBounds(runs, height)).toEqual(bounds);
        const larger = resizeCanvas(runs, { width, height }, { width: width + 3, height: height + 2 });
        expect(resizeCanvas(larger, { width: width + 3, height: height + 2 }, { width, height })).toEqual(runs);
      }),
    );
  });
});

describe("a piece of a mask", () => {
  const placed = fc
    .record({ piece: bitmap, left: fc.nat(6), top: fc.nat(6), right: fc.nat(6), below: fc.nat(6) })
    .map(({ piece: { width, height, bits }, left, top, right, below }) => ({
      ...{ bits, piece: { x: left, y: top, width, height } },
      ...{ width: left + width + right, height: top + height + below },
    }));
  it("gives the runs of the whole picture, and comes back from them", () => {
    fc.assert(
      fc.property(placed, ({ bits, piece, width, height }) => {
        const whole = new Uint8Array(width * height);
        for (let y = 0; y < piece.height; y++)
          whole.set(bits.subarray(y * piece.width, (y + 1) * piece.width), (piece.y + y) * width + piece.x);
        const counts = runsOfPiece(bits, piece, width, height);
        expect(counts).toEqual(runsFromBitmap(whole, width, height));
        expect([...bitmapOfPiece(counts, height, piece)]).toEqual([...bits]);
      }),
    );
  });
});
