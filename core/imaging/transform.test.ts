import { describe, expect, it } from "vitest";
import { planSchema } from "../plans/plan";
import { looksLikeImage } from "./magic";
import { leavesBytes, moveObjects, outputSize, resizedSize, sampleTransform } from "./transform";

const image = { key: "ab".repeat(32), size: { width: 960, height: 720 }, orientation: 1 };

describe("resizedSize", () => {
  it("fits inside or fills the frame", () => {
    expect(resizedSize(image.size, { mode: "fit", width: 640, height: 640 })).toEqual({ width: 640, height: 480 });
    expect(resizedSize({ width: 3, height: 1000 }, { mode: "fit", width: 100, height: 100 })).toEqual({
      width: 1,
      height: 100,
    });
    expect(resizedSize(image.size, { mode: "stretch", width: 224, height: 224 })).toEqual({ width: 224, height: 224 });
  });
});

describe("sampleTransform", () => {
  const plan = planSchema.parse({ augment: { copies: 3, flipSideways: 0.5 } });
  it("never augments val, test or the image itself", () => {
    const always = planSchema.parse({ augment: { copies: 3, flipSideways: 1 } });
    expect(sampleTransform(always, image, "train", 0).flipSideways).toBe(false);
    expect(sampleTransform(always, image, "train", 1).flipSideways).toBe(true);
    expect(sampleTransform(always, image, "val", 1).flipSideways).toBe(false);
  });
  it("draws the same for the same image and seed, and flips about half", () => {
    const flips = Array.from(
      { length: 2000 },
      (_, i) => sampleTransform(plan, { ...image, key: `k${i}` }, "train", 1).flipSideways,
    );
    expect(flips).toEqual(
      Array.from(
        { length: 2000 },
        (_, i) => sampleTransform(plan, { ...image, key: `k${i}` }, "train", 1).flipSideways,
      ),
    );
    // 2,000 fair draws lie within 4 standard deviations of 1,000, that is ±90.
    expect(Math.abs(flips.filter(Boolean).length - 1000)).toBeLessThan(90);
  });
  it("leaves the bytes of an image that no step changes", () => {
    expect(leavesBytes(sampleTransform(planSchema.parse({}), image, "train", 0))).toBe(true);
    expect(leavesBytes(sampleTransform(planSchema.parse({}), { ...image, orientation: 6 }, "train", 0))).toBe(false);
    const same = planSchema.parse({ prepare: { resize: { mode: "fit", width: 960, height: 960 } } });
    expect(leavesBytes(sampleTransform(same, image, "train", 0))).toBe(true);
  });
});

describe("moveObjects", () => {
  it("scales, then mirrors: worked out by hand", () => {
    const transform = { orientation: 1, resize: { width: 480, height: 360 }, flipSideways: true };
    const [moved] = moveObjects(
      [{ class: "roll", shape: { kind: "box", x: 100, y: 50, width: 200, height: 80 } }],
      image.size,
      transform,
      [],
    );
    // Halved: x 50, y 25, 100 × 40; mirrored in 480: x = 480 − 150.
    expect(moved?.shape).toEqual({ kind: "box", x: 330, y: 25, width: 100, height: 40 });
    expect(outputSize(image.size, transform)).toEqual({ width: 480, height: 360 });
  });
  it("swaps left and right keypoints in a flip", () => {
    const points = [
      { x: 10, y: 1, v: 2 as const },
      { x: 90, y: 2, v: 1 as const },
    ];
    const [moved] = moveObjects(
      [{ class: "p", shape: { kind: "keypoints", points } }],
      { width: 100, height: 100 },
      { orientation: 1, resize: null, flipSideways: true },
      [{ name: "p", keypoints: ["left", "right"] }],
    );
    expect(moved?.shape).toEqual({
      kind: "keypoints",
      points: [
        { x: 10, y: 2, v: 1 },
        { x: 90, y: 1, v: 2 },
      ],
    });
  });
});

describe("looksLikeImage", () => {
  it("goes by the first bytes", () => {
    expect(looksLikeImage(Uint8Array.from([0xff, 0xd8, 0xff, 0xe0]))).toBe(true);
    expect(looksLikeImage(new TextEncoder().encode("not a picture"))).toBe(false);
    expect(looksLikeImage(new Uint8Array())).toBe(false);
  });
});
