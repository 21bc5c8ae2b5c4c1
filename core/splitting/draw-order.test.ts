import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { inOrderOfDraws } from "./draw-order";

const draw = fc.oneof(fc.double({ min: 0, max: 0.999_999, noNaN: true }), fc.constantFrom(0, 0.25, 0.5));

describe("places in the order of draws", () => {
  it("are those that a comparison sort gives, equal draws by what orders them", () => {
    fc.assert(
      fc.property(fc.array(draw, { maxLength: 60 }), (draws) => {
        const sorted = draws.map((_, n) => n).sort((a, b) => (draws[a] ?? 0) - (draws[b] ?? 0) || b - a);
        expect([...inOrderOfDraws(Float64Array.from(draws), (a, b) => b - a)]).toEqual(sorted);
      }),
    );
  });
  it("holds where all draws are close together", () => {
    const draws = Float64Array.from({ length: 500 }, (_, n) => 0.5 + ((n * 7919) % 500) / 1e9);
    const order = [...inOrderOfDraws(draws, (a, b) => a - b)];
    expect(order.map((n) => draws[n])).toEqual([...draws].sort((a, b) => a - b));
  });
});
