import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { featureDistance, featureLength, featuresOf, type Pixels } from "./features";
import { floatBox, holdsBoxes, imageFeatures, placeOfBox } from "./image-features";

/** A picture whose pixels a function of their place gives, as red, green and blue. */
function drawn(width: number, height: number, colour: (x: number, y: number) => [number, number, number]): Pixels {
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(colour(x, y), (y * width + x) * 3);
  return { data, width, height, channels: 3 };
}
const whole = ({ width, height }: Pixels) => ({ x: 0, y: 0, width, height });
const features = (pixels: Pixels) => featuresOf(pixels, whole(pixels));
const between = (a: Pixels, b: Pixels) => featureDistance(features(a), 0, features(b), 0);

const red = drawn(64, 64, () => [255, 0, 0]);
const blue = drawn(64, 64, () => [0, 0, 255]);
const upright = drawn(64, 64, (x) => (x % 16 < 8 ? [0, 0, 0] : [255, 255, 255]));
const lying = drawn(64, 64, (_, y) => (y % 16 < 8 ? [0, 0, 0] : [255, 255, 255]));

describe("features of a picture", () => {
  it("put a plain colour at full brightness into the bin of its hue alone", () => {
    const bytes = features(red);
    // Four levels of twelve bins: the last level's second bin is the hue 0.
    expect([...bytes.subarray(0, 48)].map((value, at) => [at, value]).filter(([, value]) => value !== 0)).toEqual([
      [37, 255],
    ]);
    // No edges; every neighbourhood is flat (pattern 0) in each of the four quarters.
    expect(Math.max(...bytes.subarray(48, 84))).toBe(0);
    expect([0, 1, 2, 3].map((cell) => bytes[84 + cell * 10])).toEqual([128, 128, 128, 128]);
    // As wide as high; all of the picture; BT.601 gives red a brightness of 0.299; no contrast.
    expect([...bytes.subarray(124)]).toEqual([128, 255, 76, 0]);
  });
  it("tell upright stripes from lying ones by their gradients alone", () => {
    const [a, b] = [features(upright), features(lying)];
    expect([...a.subarray(0, 48)]).toEqual([...b.subarray(0, 48)]);
    // Unsigned directions: across is the first of nine bins of 20 degrees, down lies between the fifth and the sixth.
    const strongest = (bytes: Uint8Array) => [...bytes.subarray(48, 57)].indexOf(Math.max(...bytes.subarray(48, 57)));
    expect(strongest(a)).toBe(0);
    expect([4, 5]).toContain(strongest(b));
  });
  it("are nearer for what is alike", () => {
    const almostRed = drawn(64, 64, (x) => [250 - (x % 3), 4, 2]);
    expect(between(red, almostRed)).toBeLessThan(between(red, blue) / 2);
    expect(between(upright, lying)).toBeGreaterThan(0.1);
  });
  it("hardly change with the size of the picture, and not at all with alpha", () => {
    const large = drawn(256, 256, (x) => (x % 64 < 32 ? [0, 0, 0] : [255, 255, 255]));
    expect(between(upright, large)).toBeLessThan(0.12);
    const data = new Uint8Array(64 * 64 * 4);
    for (let at = 0; at < 64 * 64; at++) data.set([255, 0, 0, at % 256], at * 4);
    expect(features({ data, width: 64, height: 64, channels: 4 })).toEqual(features(red));
  });
  it("of a box see only what lies in it, and a box without area gives nothing", () => {
    const halves = drawn(80, 40, (x) => (x < 40 ? [255, 0, 0] : [0, 0, 255]));
    const left = featuresOf(halves, { x: 0, y: 0, width: 40, height: 40 });
    expect(left.subarray(0, 124)).toEqual(features(drawn(40, 40, () => [255, 0, 0])).subarray(0, 124));
    expect(featuresOf(halves, { x: 4, y: 4, width: 0, height: 9 })).toEqual(new Uint8Array(featureLength));
  });
  it("stand any box, also one that reaches out of the picture", () => {
    const number = fc.double({ min: -500, max: 500, noNaN: true });
    fc.assert(
      fc.property(number, number, number, number, (x, y, width, height) => {
        expect(featuresOf(upright, { x, y, width, height })).toHaveLength(featureLength);
      }),
    );
  });
});

describe("distance", () => {
  it("is nothing to itself, the same both ways, and never above one", () => {
    const some = fc.uint8Array({ minLength: featureLength, maxLength: featureLength });
    fc.assert(
      fc.property(some, some, (a, b) => {
        expect(featureDistance(a, 0, a, 0)).toBe(0);
        expect(featureDistance(a, 0, b, 0)).toBe(featureDistance(b, 0, a, 0));
      }),
    );
    expect(between(red, blue)).toBeLessThanOrEqual(1);
    expect(between(red, blue)).toBeGreaterThan(0.3);
  });
});

describe("the features of an image and its boxes", () => {
  const size = { width: 640, height: 320 };
  const small = drawn(80, 40, (x) => (x < 40 ? [255, 0, 0] : [0, 0, 255]));
  const boxes = [
    { x: 0, y: 0, width: 320, height: 320 },
    { x: 320.1, y: 0, width: 319.9, height: 320 },
    { x: 0, y: 0, width: 320, height: 320 },
  ];
  it("are found by the box, in the frame of the image; a box that comes twice is kept once", () => {
    const packed = imageFeatures(small, size, boxes);
    expect(packed).toHaveLength(128 + 2 * (16 + 128));
    const view = new DataView(packed.buffer);
    const place = placeOfBox(view, 0, packed.length, floatBox(boxes[1] as (typeof boxes)[number]));
    expect(packed.subarray(place, place + 124)).toEqual(features(blue).subarray(0, 124));
    expect(placeOfBox(view, 0, packed.length, [1, 2, 3, 4])).toBe(-1);
    expect(holdsBoxes(packed, boxes)).toBe(true);
    expect(holdsBoxes(packed, [...boxes, { x: 1, y: 2, width: 3, height: 4 }])).toBe(false);
  });
});
