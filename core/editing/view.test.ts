import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fittingView, fullSizeView, panBy, toImage, toScreen, viewOfBox, zoomAt, type View } from "./view";

const place = fc.tuple(
  fc.double({ min: -500, max: 9000, noNaN: true }),
  fc.double({ min: -500, max: 9000, noNaN: true }),
);
const view: fc.Arbitrary<View> = fc.record({
  scale: fc.double({ min: 0.02, max: 64, noNaN: true }),
  x: fc.double({ min: -5000, max: 5000, noNaN: true }),
  y: fc.double({ min: -5000, max: 5000, noNaN: true }),
});

describe("a view", () => {
  it("takes a place to the screen and back, to a hundredth of a pixel, at any zoom and on any screen", () => {
    fc.assert(
      fc.property(view, place, fc.constantFrom(1, 1.25, 1.5, 2, 3), (at, [x, y], ratio) => {
        // What a screen tells is a CSS pixel, to the device's own pixels.
        const [sx, sy] = toScreen(at, [x, y]).map((value) => Math.round(value * ratio * 1e4) / (ratio * 1e4)) as [
          number,
          number,
        ];
        const [bx, by] = toImage(at, [sx, sy]);
        expect(Math.abs(bx - x)).toBeLessThan(0.01);
        expect(Math.abs(by - y)).toBeLessThan(0.01);
      }),
    );
  });
  it("keeps what is under the pointer there while it zooms", () => {
    fc.assert(
      fc.property(view, place, fc.double({ min: 0.1, max: 10, noNaN: true }), (at, pointer, factor) => {
        const before = toImage(at, pointer);
        const after = toImage(zoomAt(at, factor, pointer), pointer);
        expect(Math.hypot(after[0] - before[0], after[1] - before[1])).toBeLessThan(1e-6 * 1e5);
      }),
    );
    expect(zoomAt({ scale: 50, x: 0, y: 0 }, 100, [0, 0]).scale).toBe(64);
    expect(zoomAt({ scale: 0.03, x: 0, y: 0 }, 0.01, [0, 0]).scale).toBe(0.02);
  });
  it("fits a picture, a box of it, or shows it at its full size", () => {
    const surface = { width: 832, height: 632 };
    const fitting = fittingView({ width: 1600, height: 1200 }, surface);
    expect(fitting).toEqual({ scale: 0.5, x: 16, y: 16 });
    expect(viewOfBox({ x: 100, y: 50, width: 100, height: 50 }, surface, 16).scale).toBe(8);
    const full = fullSizeView(fitting, surface);
    expect(full.scale).toBe(1);
    expect(toImage(full, [416, 316])).toEqual([800, 600]);
    expect(panBy(full, 10, -5)).toEqual({ ...full, x: full.x + 10, y: full.y - 5 });
  });
});
