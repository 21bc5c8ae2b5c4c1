/** Whatever a format can carry comes back from it equal, within its own rounding. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "../geometry/run-length";
import { rotatedBoxCorners } from "../geometry/shape";
import { Findings } from "../model/finding";
import { blankItem, type ClassInfo, type LabeledObject, type Split } from "../model/item";
import type { Shape } from "../model/shape";
import { MemoryTree } from "../tests/memory-tree";
import { fitItem } from "./fit";
import type { Format, OutgoingItem } from "./format";
import { openPicture } from "./open-picture";
import { formats } from "./registry";
import { settle } from "./settle";
import { verifyPackage, writePackage } from "./write-package";

const size = { width: 64, height: 48 };
const classNames = ["roll", "rye, dark", "Brötchen", "=sum", 'a "b"', "two words", "パン"];
const classes: ClassInfo[] = classNames.map((name) => ({ name, keypoints: ["left end", "right end", "middle"] }));

const between = (low: number, high: number) => fc.double({ min: low, max: high, noNaN: true, noDefaultInfinity: true });
const box = fc.record({ x: between(0, 50), y: between(0, 36), width: between(1.5, 14), height: between(1.5, 12) });
const shape: fc.Arbitrary<Shape> = fc.oneof(
  box.map((corners): Shape => ({ kind: "box", ...corners })),
  fc
    .record({
      cx: between(20, 44),
      cy: between(20, 28),
      width: between(3, 16),
      height: between(3, 16),
      angle: between(-0.7, 0.7),
    })
    .map((corners): Shape => ({ kind: "rotated-box", ...corners })),
  box.map(({ x, y, width, height }): Shape => ({
    kind: "polygon",
    parts: [[[x, y, x + width, y + height / 3, x + width / 2, y + height]]],
  })),
  fc.tuple(box, box).map(([a, b]): Shape => ({
    kind: "polygon",
    parts: [a, b].map(({ x, y, width, height }) => [[x, y, x + width, y, x + width, y + height, x, y + height]]),
  })),
  fc
    .record({
      x: fc.integer({ min: 0, max: 50 }),
      y: fc.integer({ min: 0, max: 36 }),
      width: fc.integer({ min: 1, max: 13 }),
      height: fc.integer({ min: 1, max: 11 }),
      gap: fc.boolean(),
    })
    .map(({ x, y, width, height, gap }): Shape => {
      const bits = new Uint8Array(size.width * size.height);
      for (let row = y; row < y + height; row++)
        for (let column = x; column < x + width; column++)
          if (!(gap && row === y + 1 && column === x + 1)) bits[row * size.width + column] = 1;
      return { kind: "mask", ...size, counts: runsFromBitmap(bits, size.width, size.height) };
    }),
  fc
    .tuple(
      fc.array(
        fc
          .record({ x: between(1, 60), y: between(1, 46), v: fc.constantFrom(0 as const, 1 as const, 2 as const) })
          .map((point) => (point.v === 0 ? { x: 0, y: 0, v: point.v } : point)),
        { minLength: 3, maxLength: 3 },
      ),
      box,
    )
    .map(([points, bounds]): Shape => ({ kind: "keypoints", points, box: bounds })),
  fc
    .array(fc.tuple(between(1, 60), between(1, 46)), { minLength: 2, maxLength: 4 })
    .map((points): Shape => ({ kind: "line", points: points.flat() })),
);
const object: fc.Arbitrary<LabeledObject> = fc
  .record({
    class: fc.constantFrom(...classNames),
    shape,
    crowd: fc.boolean(),
    occluded: fc.boolean(),
    truncated: fc.boolean(),
    difficult: fc.boolean(),
    confidence: fc.option(
      fc.integer({ min: 1, max: 99 }).map((percent) => percent / 100),
      { nil: undefined },
    ),
    attributes: fc.option(
      fc.dictionary(
        fc.constantFrom("bake", "topping", "pose", "height", "alpha", "depiction"),
        fc.oneof(fc.constantFrom("pale", "left", "x, y"), fc.integer(), fc.boolean()),
        { minKeys: 1 },
      ),
      { nil: undefined },
    ),
  })
  .map(({ class: name, shape: geometry, confidence, attributes, ...flags }) => {
    const object: LabeledObject = { class: name, shape: geometry };
    for (const flag of ["crowd", "occluded", "truncated", "difficult"] as const) if (flags[flag]) object[flag] = true;
    if (confidence !== undefined) object.confidence = confidence;
    if (attributes) object.attributes = attributes;
    return object;
  });
const word = fc.constantFrom("warm", "from the oven", 'ü, "quoted"', "line", "=1+1", "a|b");
const item = fc.record({
  split: fc.constantFrom<Split | null>("train", "val", "test", null),
  objects: fc.array(object, { maxLength: 4 }),
  classes: fc.uniqueArray(fc.constantFrom(...classNames), { maxLength: 3 }),
  captions: fc.array(word, { maxLength: 2 }),
  fields: fc.dictionary(
    fc.constantFrom("oven", "shift", "baker's note"),
    fc.oneof(word, fc.array(word, { minLength: 1, maxLength: 3 })),
    { maxKeys: 2 },
  ),
  empty: fc.boolean(),
  name: fc.constantFrom("a.jpg", "b c.jpg", "a.b.jpg", "Brötchen.jpg", "x.png"),
});
const items = fc.array(item, { minLength: 1, maxLength: 4 }).map((list): OutgoingItem[] =>
  list.map(({ empty, name, ...object }, n) => {
    const labeled =
      object.objects.length + object.classes.length + object.captions.length + Object.keys(object.fields).length > 0;
    // Bytes of their own, so that what is opened afterwards can be told apart.
    return {
      ...blankItem(`${n}/${name}`),
      ...object,
      state: labeled ? "labeled" : empty ? "empty" : "unlabeled",
      size,
      open: () => Promise.resolve(Uint8Array.of(0xff, 0xd8, n)),
    };
  }),
);

async function* stream<T>(list: readonly T[]): AsyncIterable<T> {
  yield* list;
}

/** What a format keeps of an object beside its geometry. */
const detailsOf = ({ class: _, shape: __, confidence, attributes, ...flags }: LabeledObject) => ({
  confidence: confidence === undefined ? null : Number(confidence.toPrecision(6)),
  attributes: attributes ?? {},
  flags: Object.entries(flags)
    .flatMap(([flag, set]) => (set ? [flag] : []))
    .sort(),
});

/** The longest way between two lists of places (x, y, x, y …), pairwise; infinite where they are of unlike length. */
function distance(a: readonly number[], b: readonly number[]): number {
  if (a.length !== b.length) return Infinity;
  return a.reduce((most, value, n) => Math.max(most, Math.abs(value - (b[n] as number))), 0);
}

/** The least such distance when the second list may begin at any of its places. */
function ringDistance(a: readonly number[], b: readonly number[]): number {
  let least = a.length === b.length ? Infinity : NaN;
  for (let at = 0; at < b.length; at += 2) least = Math.min(least, distance(a, [...b.slice(at), ...b.slice(0, at)]));
  return least;
}

/** Every number of a shape beside every number of another: the farthest that any two are apart, in pixels. */
function shapeDistance(a: Shape, b: Shape): number {
  if (a.kind === "box" && b.kind === "box")
    return distance([a.x, a.y, a.x + a.width, a.y + a.height], [b.x, b.y, b.x + b.width, b.y + b.height]);
  if (a.kind === "rotated-box" && b.kind === "rotated-box")
    return ringDistance(rotatedBoxCorners(a), rotatedBoxCorners(b));
  if (a.kind === "polygon" && b.kind === "polygon") {
    const rings = (shape: typeof a) => shape.parts.flat();
    if (String(a.parts.map((part) => part.length)) !== String(b.parts.map((part) => part.length))) return Infinity;
    return Math.max(...rings(a).map((ring, n) => ringDistance(ring, rings(b)[n] ?? [])));
  }
  if (a.kind === "mask" && b.kind === "mask")
    return a.width === b.width && a.height === b.height && String(a.counts) === String(b.counts) ? 0 : Infinity;
  if (a.kind === "line" && b.kind === "line") return distance(a.points, b.points);
  if (a.kind === "keypoints" && b.kind === "keypoints") {
    if (String(a.points.map(({ v }) => v)) !== String(b.points.map(({ v }) => v))) return Infinity;
    const numbers = ({ points, box }: typeof a) => [
      ...points.flatMap(({ x, y }) => [x, y]),
      ...(box ? [box.x, box.y, box.x + box.width, box.y + box.height] : []),
    ];
    return distance(numbers(a), numbers(b));
  }
  return Infinity;
}

describe("what a format carries comes back", () => {
  it.each(formats.filter((format) => format.write).map((format) => format.name))("%s", async (name) => {
    const format = formats.find((candidate) => candidate.name === name) as Format;
    await fc.assert(
      fc.asyncProperty(items, async (list) => {
        const options =
          format.surveyed?.(
            { objects: list.reduce((sum, item) => sum + item.objects.length, 0), imageClasses: 0 },
            {},
          ) ?? {};
        const renamed = format.classNames?.(classes) ?? classes;
        const fitted = list.flatMap((item) => fitItem(item, format, options, new Findings()) ?? []);
        const tree = new MemoryTree({}, 1 << 16);
        const written = await writePackage(
          format,
          { title: "t", classes, notes: [], items: stream(list) },
          tree,
          options,
          new Findings(),
        );
        await verifyPackage(format, tree, written, options);
        const report = new Findings();
        const back: { state: string; split: Split | null; objects: LabeledObject[]; byte: number | undefined }[] = [];
        for await (const read of (await format.read(tree, format.readsBackWith?.(options) ?? {}, report)).items) {
          const settled = settle(read, { ...size, orientation: 1 }, report);
          back.push({
            state: settled.state,
            split: settled.split,
            objects: settled.objects,
            byte: (await openPicture(tree, read))[2],
          });
        }
        for (const item of fitted) {
          const number = Number(item.path.split("/")[0]);
          const same = back.filter((candidate) => candidate.byte === number);
          // Several classes stand in several folders; everything else comes back once.
          expect(same.length).toBe(name === "class-folders" ? Math.max(1, item.classes.length) : 1);
          expect([same[0]?.state, same[0]?.split]).toEqual([item.state, item.split]);
          expect(same[0]?.objects.length).toBe(item.objects.length);
          const tolerance = format.rounding.pixels + format.rounding.relative * size.width + 1e-6;
          item.objects.forEach((wanted, n) => {
            const got = same[0]?.objects[n] as LabeledObject;
            expect([got.class, detailsOf(got)]).toEqual([
              renamed[classNames.indexOf(wanted.class)]?.name,
              detailsOf(wanted),
            ]);
            expect(shapeDistance(wanted.shape, got.shape), JSON.stringify([wanted.shape, got.shape])).toBeLessThan(
              tolerance,
            );
          });
        }
      }),
      { numRuns: 40 },
    );
  });
});
