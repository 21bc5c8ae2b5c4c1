/** Whatever a format can carry comes back from it equal, within its own rounding. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { runsFromBitmap } from "../geometry/run-length";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { Findings } from "../model/finding";
import { blankItem, objectFlags, type ClassInfo, type LabeledObject, type Split } from "../model/item";
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
  box.map((own): Shape => ({ kind: "box", ...own })),
  fc
    .record({
      cx: between(20, 44),
      cy: between(20, 28),
      width: between(3, 16),
      height: between(3, 16),
      angle: between(-0.7, 0.7),
    })
    .map((own): Shape => ({ kind: "rotated-box", ...own })),
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
    .array(fc.record({ x: between(1, 60), y: between(1, 46), v: fc.constantFrom(1 as const, 2 as const) }), {
      minLength: 3,
      maxLength: 3,
    })
    .map((points): Shape => ({ kind: "keypoints", points, box: { x: 1, y: 1, width: 60, height: 46 } })),
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
  .map(({ class: name, shape: own, confidence, attributes, ...flags }) => {
    const object: LabeledObject = { class: name, shape: own };
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

/** What the format keeps of an object, for comparing by eye of another kind than the verification's own columns. */
function summary({ class: name, shape: own, ...object }: LabeledObject) {
  const bounds = shapeBounds(own);
  return {
    name,
    kind: own.kind,
    area: shapeArea(own),
    bounds,
    flags: objectFlags.filter((flag) => flag !== "confidence" && object[flag]),
    attributes: object.attributes ?? {},
  };
}

describe("what a format carries comes back", () => {
  it.each(formats.filter((format) => format.write).map((format) => format.name))("%s", async (name) => {
    const format = formats.find((candidate) => candidate.name === name) as Format;
    await fc.assert(
      fc.asyncProperty(items, async (list) => {
        const options =
          format.surveyed?.({ objects: list.reduce((sum, own) => sum + own.objects.length, 0), imageClasses: 0 }, {}) ??
          {};
        const renamed = format.classNames?.(classes) ?? classes;
        const fitted = list.flatMap((own) => fitItem(own, format, options, new Findings()) ?? []);
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
          const own = settle(read, { ...size, orientation: 1 }, report);
          back.push({
            state: own.state,
            split: own.split,
            objects: own.objects,
            byte: (await openPicture(tree, read))[2],
          });
        }
        for (const own of fitted) {
          const number = Number(own.path.split("/")[0]);
          const same = back.filter((candidate) => candidate.byte === number);
          // Several classes stand in several folders; everything else comes back once.
          expect(same.length).toBe(name === "class-folders" ? Math.max(1, own.classes.length) : 1);
          expect([same[0]?.state, same[0]?.split]).toEqual([own.state, own.split]);
          expect(same[0]?.objects.length).toBe(own.objects.length);
          const tolerance = format.rounding.pixels + format.rounding.relative * size.width + 1e-6;
          own.objects.map(summary).forEach((wanted, n) => {
            const got = summary(same[0]?.objects[n] as LabeledObject);
            expect([got.name, got.kind, got.flags, got.attributes]).toEqual([
              renamed[classNames.indexOf(wanted.name)]?.name,
              wanted.kind,
              wanted.flags,
              wanted.attributes,
            ]);
            for (const edge of ["x", "y"] as const)
              expect(Math.abs((got.bounds?.[edge] ?? NaN) - (wanted.bounds?.[edge] ?? NaN))).toBeLessThanOrEqual(
                tolerance,
              );
          });
        }
      }),
      { numRuns: 40 },
    );
  });
});
