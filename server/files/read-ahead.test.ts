import { describe, expect, it } from "vitest";
import { readAhead } from "./read-ahead";

async function* numbers(count: number) {
  for (let n = 0; n < count; n++) {
    await Promise.resolve();
    yield n;
  }
}

/** Reads that say when they begin, and how many are under way at once. */
function reader() {
  const begun: number[] = [];
  const read = (n: number) => {
    begun.push(n);
    return n === 5 ? Promise.reject(new Error("five")) : Promise.resolve(Uint8Array.of(n));
  };
  return { begun, read };
}

describe("reading ahead", () => {
  it("gives every entry its own bytes, in order, a few read before they are asked for", async () => {
    const { begun, read } = reader();
    const got: string[] = [];
    for await (const { entry, bytes } of readAhead(numbers(20), read)) {
      const own = await bytes().then(
        ([value]) => String(value),
        (error: Error) => error.message,
      );
      got.push(`${entry} ${own}`);
      if (entry === 3) expect(begun.length).toBeGreaterThan(8);
      expect(begun.length).toBeLessThanOrEqual(entry + 9);
    }
    expect(got).toEqual(Array.from({ length: 20 }, (_, n) => (n === 5 ? "5 five" : `${n} ${n}`)));
    expect(begun).toEqual(Array.from({ length: 20 }, (_, n) => n));
  });
  it("reads nothing where nothing is asked for", async () => {
    const { begun, read } = reader();
    let count = 0;
    for await (const _ of readAhead(numbers(20), read)) count++;
    expect([count, begun.length]).toEqual([20, 0]);
  });
});
