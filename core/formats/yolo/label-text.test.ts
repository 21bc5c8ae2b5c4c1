import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { LabelText } from "./label-text";

const textOf = (write: (text: LabelText) => void) => {
  const text = new LabelText();
  write(text);
  return Buffer.from(text.drain()).toString();
};

describe("the text of a label file", () => {
  it("has a class number, numbers with ten decimals, and a line feed, by hand", () => {
    expect(
      textOf(
        (text) => (
          text.begin(12),
          text.share(0.5),
          text.share(1),
          text.share(0.000123456789),
          text.share(1e-11),
          text.plain(2),
          text.endLine()
        ),
      ),
    ).toBe("12 0.5000000000 1.0000000000 0.0001234568 0.0000000000 2\n");
  });
  it("gives shares as the language does, to within a unit of the last place, and any other number just so", () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (value) => {
        const word = textOf((text) => text.share(value));
        expect(word).toMatch(/^ [01]\.\d{10}$/);
        expect(Math.abs(Number(word) - Number(value.toFixed(10)))).toBeLessThanOrEqual(1.1e-10);
      }),
    );
    for (const value of [-0.25, 1.5, 12_345.678_9, -3e-7, 1e25])
      expect(textOf((text) => text.share(value))).toBe(` ${value.toFixed(10)}`);
  });
  it("begins anew once it was taken, and grows as far as it has to", () => {
    const text = new LabelText();
    for (let n = 0; n < 20_000; n++) text.share(n / 20_000);
    expect(text.drain().length).toBe(20_000 * 13);
    text.begin(3);
    text.endLine();
    expect(Buffer.from(text.drain()).toString()).toBe("3\n");
    expect(text.drain().length).toBe(0);
  });
});
