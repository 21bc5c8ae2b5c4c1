import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { hashDistance, nearCopies } from "./near-copies";

const hash = fc.stringMatching(/^[0-9a-f]{16}$/);
const flipBits = (text: string, bits: readonly number[]) => {
  const nibbles = [...text].map((digit) => Number.parseInt(digit, 16));
  for (const bit of new Set(bits)) nibbles[Math.floor(bit / 4)] = (nibbles[Math.floor(bit / 4)] as number) ^ (1 << (bit % 4));
  return nibbles.map((nibble) => nibble.toString(16)).join("");
};

describe("hashDistance", () => {
  it("counts the bits that differ, by hand", () => {
    expect(hashDistance("00", "00")).toBe(0);
    expect(hashDistance("0f", "00")).toBe(4);
    expect(hashDistance("a5", "5a")).toBe(8);
  });
});

describe("nearCopies", () => {
  it("finds what is near in the same list or in the other, once each, not the same key", () => {
    const among = [{ key: "a", hash: "0000" }, { key: "b", hash: "0001" }, { key: "c", hash: "ff00" }, { key: "d", hash: "0f0f" }];
    expect([...nearCopies(among, [{ key: "c", hash: "ff00" }, { key: "x", hash: "ff01" }], 1)]).toEqual([["b", "a"], ["c", "x"]]);
    expect(nearCopies([], [], 3).size).toBe(0);
  });
  it("finds exactly what comparing every pair finds", () => {
    const list = fc.array(fc.tuple(hash, fc.array(fc.nat(63), { maxLength: 7 })), { maxLength: 12 }).map((entries) => entries.flatMap(([base, bits], n) => [{ key: `${n}a`, hash: base }, { key: `${n}b`, hash: flipBits(base, bits) }]));
    fc.assert(
      fc.property(list, list, fc.nat(6), (among, against, within) => {
        const other = against.map(({ key, hash: own }) => ({ key: `s${key}`, hash: own }));
        const slow = among.filter((entry, n) => [...other, ...among.slice(0, n)].some((candidate) => candidate.key !== entry.key && hashDistance(candidate.hash, entry.hash) <= within)).map(({ key }) => key);
        expect([...nearCopies(among, other, within).keys()]).toEqual(slow);
      }),
    );
  });
});
