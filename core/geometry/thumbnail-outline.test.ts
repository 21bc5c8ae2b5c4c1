import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Shape } from "../model/shape";
import { shapeArea, shapeBounds } from "./shape";
import { thumbnailOutline } from "./thumbnail-outline";

/** A ring of many corners round a centre. */
const round = (x: number, y: number, radius: number, corners = 200) =>
  Array.from({ length: corners }, (_, n) => {
    const turn = (2 * Math.PI * n) / corners;
    return [x + radius * Math.cos(turn), y + radius * Math.sin(turn)];
  }).flat();

describe("an outline for thumbnails", () => {
  it("has far fewer corners, and covers nearly the same", () => {
    fc.assert(
      fc.property(fc.integer({ min: 60, max: 400 }), (radius) => {
        const shape: Shape = { kind: "polygon", parts: [[round(800, 600, radius)]] };
        const outline = thumbnailOutline(shape, { width: 1600, height: 1200 });
        expect(outline?.kind).toBe("polygon");
        if (outline?.kind !== "polygon") return;
        expect(outline.parts[0]?.[0]?.length).toBeLessThan(120);
        // Off by two pixels at most all round.
        expect(Math.abs(shapeArea(outline) - shapeArea(shape))).toBeLessThan(2 * Math.PI * radius * 2);
      }),
    );
  });
  it("follows a mask's edge", () => {
    // Columns 2 to 5 of an 8 × 4 picture, rows 1 and 2: runs down the columns.
    const shape: Shape = { kind: "mask", width: 8, height: 4, counts: [9, 2, 2, 2, 2, 2, 2, 2, 9] };
    const outline = thumbnailOutline(shape, { width: 8, height: 4 });
    expect(outline?.kind).toBe("polygon");
    expect(shapeBounds(outline as Shape)).toEqual({ x: 2, y: 1, width: 4, height: 2 });
    expect(shapeArea(outline as Shape)).toBe(8);
  });
  it("is not made of what is short itself", () => {
    const size = { width: 100, height: 100 };
    expect(thumbnailOutline({ kind: "box", x: 1, y: 2, width: 3, height: 4 }, size)).toBeNull();
    expect(thumbnailOutline({ kind: "polygon", parts: [[[0, 0, 9, 0, 9, 9]]] }, size)).toBeNull();
    expect(thumbnailOutline({ kind: "keypoints", points: [{ x: 1, y: 1, v: 2 }] }, size)).toBeNull();
  });
});
