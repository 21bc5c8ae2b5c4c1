import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hashDistance, nearCopies, nearPairs } from "./near-copies";

const bytes = (...hex: string[]) => Uint8Array.from(Buffer.from(hex.join(""), "hex"));

describe("hashDistance", () => {
  it("counts the bits that differ, by hand", () => {
    expect(hashDistance(bytes("00000000"), bytes("00000000"))).toBe(0);
    expect(hashDistance(bytes("0000000f"), bytes("00000000"))).toBe(4);
    expect(hashDistance(bytes("a500000000000001"), bytes("5a00000080000000"))).toBe(10);
  });
});

describe("nearCopies", () => {
  it("finds what is near in the same list or in the other, once each", () => {
    const among = bytes("00000000", "00000001", "ff000001", "0f0f0000");
    expect(nearCopies(among, bytes("12345678", "ff000000"), 4, 1)).toEqual([
      { position: 1, of: 0, from: "among" },
      { position: 2, of: 1, from: "against" },
    ]);
    expect(nearCopies(among, bytes(), 4, 1)).toEqual([{ position: 1, of: 0, from: "among" }]);
    expect(nearCopies(bytes("00000000", "00000000"), bytes(), 4, 0)).toEqual([{ position: 1, of: 0, from: "among" }]);
    expect(nearCopies(bytes(), bytes(), 32, 28)).toEqual([]);
  });
  it("finds exactly what comparing every pair finds", () => {
    for (const length of [4, 8, 32]) {
      const hash = fc.uint8Array({ minLength: length, maxLength: length });
      const near = fc.tuple(hash, fc.array(fc.nat(length * 8 - 1), { maxLength: 9 })).map(([base, bits]) => {
        const changed = base.slice();
        for (const bit of new Set(bits)) changed[bit >> 3] = (changed[bit >> 3] as number) ^ (1 << (bit & 7));
        return [base, changed];
      });
      const list = fc.array(near, { maxLength: 10 }).map((pairs) => pairs.flat());
      fc.assert(
        fc.property(list, list, fc.nat(7), (among, against, within) => {
          const slow = among.flatMap((hash, n) =>
            [...against, ...among.slice(0, n)].some((other) => hashDistance(hash, other) <= within) ? [n] : [],
          );
          const found = nearCopies(Buffer.concat(among), Buffer.concat(against), length, within);
          expect(found.map(({ position }) => position)).toEqual(slow);
          // What is named beside each is near indeed, and comes before it.
          for (const { position, of, from } of found) {
            expect(
              hashDistance(among[position] as Uint8Array, (from === "among" ? among : against)[of] as Uint8Array),
            ).toBeLessThanOrEqual(within);
            expect(from === "against" || of < position).toBe(true);
          }
        }),
      );
    }
  });
  it("lists every pair once, in the order of the positions", () => {
    const hash = fc.uint8Array({ minLength: 4, maxLength: 4 }).map((bytes) => bytes.map((byte) => byte & 0b1001));
    fc.assert(
      fc.property(
        fc.array(hash, { maxLength: 14 }),
        fc.array(hash, { maxLength: 5 }),
        fc.nat(4),
        (among, against, within) => {
          const expected = among.flatMap((own, position) => [
            ...against.flatMap((other, of) =>
              hashDistance(own, other) <= within ? [{ position, of, from: "against" }] : [],
            ),
            ...among
              .slice(0, position)
              .flatMap((other, of) => (hashDistance(own, other) <= within ? [{ position, of, from: "among" }] : [])),
          ]);
          const asked = { bytesEach: 4, within, mostEach: 100 };
          const found = nearPairs(Buffer.concat(among), Buffer.concat(against), asked);
          expect(found.length).toBe(expected.length);
          expect([...found].map(({ position }) => position)).toEqual(expected.map(({ position }) => position));
          expect(new Set([...found].map((pair) => JSON.stringify(pair)))).toEqual(
            new Set(expected.map((pair) => JSON.stringify(pair))),
          );
        },
      ),
    );
  });
  it("lists so many of each position and no more", () => {
    const alike = new Uint8Array(4 * 20);
    const found = [...nearPairs(alike, bytes(), { bytesEach: 4, within: 1, mostEach: 3 })];
    expect(found).toHaveLength(0 + 1 + 2 + 3 * 17);
    expect(new Set(found.map(({ position, of }) => `${position} ${of}`)).size).toBe(found.length);
  });
});
