import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { MemoryTree } from "../../tests/memory-tree";
import { readTopLevelArrays } from "../json-elements";
import { AnnotationRows } from "./annotation-rows";
import { AnnotationStore } from "./annotation-store";

const info = { name: "roll" };

/** All that a store knows, by image, in order. */
function known(store: AnnotationStore) {
  return store.images.names.flatMap((id, image) => {
    const rows = [...store.rowsOf(image)].map((row) => ({
      caption: store.captionAt(row),
      category: store.categoryAt(row),
      object: store.objectAt(row, info),
    }));
    return rows.length > 0 ? [{ id, rows }] : [];
  });
}

function byElements(elements: readonly unknown[]) {
  const store = new AnnotationStore();
  const refused = elements.filter((element) => !store.add(element)).length;
  return { known: known(store), refused };
}

/** Reads the text of a list, its bytes in chunks; every batch is passed on at once, so that rows are cut everywhere. */
function byRows(text: string, chunk: number) {
  const store = new AnnotationStore();
  let refused = 0;
  const rows = new AnnotationRows(store, () => refused++);
  const bytes = new TextEncoder().encode(text);
  let waiting = new Uint8Array(0);
  let left = "";
  for (let from = 0; from < bytes.length; from += chunk) {
    const part = bytes.subarray(from, from + chunk);
    const joined = new Uint8Array(waiting.length + part.length + 1);
    joined.set(waiting);
    joined.set(part, waiting.length);
    const { at, wantsMore } = rows.take(joined, 0, joined.length - 1);
    waiting = joined.slice(at, -1);
    left = new TextDecoder().decode(waiting);
    if (!wantsMore) break;
  }
  return { known: known(store), refused, left };
}

const number = fc.oneof(
  fc.integer({ min: -5, max: 5000 }),
  fc.double({ noDefaultInfinity: true, noNaN: true }),
  fc.integer({ min: 0, max: 100_000 }).map((n) => n / 100),
);
const id = fc.oneof(fc.integer({ min: 0, max: 4 }), fc.constantFrom("1", "a", "ö", 'q"', "-7", "007"));
const ring = fc.oneof(
  fc.array(number, { maxLength: 9 }),
  fc.array(fc.oneof(number, fc.constantFrom(null, "x")), { maxLength: 8 }),
);
const row = fc.record(
  {
    id: fc.oneof(fc.integer(), fc.string()),
    image_id: fc.oneof(id, fc.constant(null)),
    category_id: fc.oneof(id, fc.constant(null)),
    bbox: fc.oneof(
      fc.array(number, { minLength: 4, maxLength: 4 }),
      fc.array(fc.oneof(number, fc.constant("1")), { maxLength: 5 }),
      fc.constant(null),
    ),
    area: fc.oneof(number, fc.constant(null)),
    segmentation: fc.oneof(
      fc.array(ring, { maxLength: 3 }),
      fc.constant(null),
      fc.constant({ size: [4, 5], counts: [3, 2, 15] }),
      fc.constant({ size: [2, 2], counts: "04" }),
    ),
    iscrowd: fc.constantFrom(0, 1, true, false),
    attributes: fc.record({ seeds: fc.constantFrom("poppy", 'ses"ame', "}],[{") }),
    caption: fc.string(),
    score: fc.double({ min: 0, max: 1, noNaN: true }),
  },
  { requiredKeys: [] },
);

describe("AnnotationRows", () => {
  it("keeps what JSON.parse gives, wherever the bytes are cut and however they are spaced", () => {
    fc.assert(
      fc.property(
        fc.array(row, { maxLength: 8 }),
        fc.integer({ min: 1, max: 300 }),
        fc.constantFrom(0, 1, "\t"),
        (elements, chunk, space) => {
          const text = JSON.stringify(elements, null, space).slice(1, -1);
          const read = byRows(`${text},`, chunk);
          const wanted = byElements(JSON.parse(`[${text}]`) as unknown[]);
          expect({ known: read.known, refused: read.refused }).toEqual(wanted);
        },
      ),
      { numRuns: 400 },
    );
  });

  it("gives each decimal as JSON.parse does, to the last bit", () => {
    const digits = fc.stringMatching(/^[0-9]{1,18}$/);
    const decimal = fc
      .tuple(
        fc.constantFrom("", "-"),
        fc.oneof(
          fc.constant("0"),
          digits.filter((text) => !text.startsWith("0")),
        ),
        fc.option(digits, { nil: null }),
        fc.option(fc.integer({ min: -30, max: 30 }), { nil: null }),
      )
      .map(
        ([sign, whole, after, power]) =>
          `${sign}${whole}${after === null ? "" : `.${after}`}${power === null ? "" : `e${power}`}`,
      );
    fc.assert(
      fc.property(fc.array(decimal, { minLength: 3, maxLength: 8 }), (texts) => {
        const flat = [...texts, ...texts];
        const { known: got } = byRows(`{"image_id":1,"category_id":1,"segmentation":[[${flat.join(",")}]]},`, 10_000);
        expect(got[0]?.rows[0]?.object?.shape).toEqual({
          kind: "polygon",
          parts: [[flat.map((text) => JSON.parse(text) as number)]],
        });
      }),
      { numRuns: 400 },
    );
  });

  it("stops where the list ends, and where it holds what is no object", () => {
    const one = '{"image_id":1,"category_id":2,"bbox":[1,2,3,4]}';
    expect(byRows(`${one}, ${one}]`, 1000)).toMatchObject({ left: ` ${one}]` });
    expect(byRows(`${one},7,${one},`, 1000).left).toBe(`7,${one},`);
    expect(byRows(`${one},{"image_id":01},${one},`, 1000).left).toBe(`{"image_id":01},${one},`);
    expect(byRows(`${one} ${one},`, 1000).left).toBe(`${one} ${one},`);
  });

  it.each(["1.", ".5", "-", "+1", "01", "1e", "0x1", "1 2", "NaN", "1,", ""])(
    "takes no %j for a number",
    async (text) => {
      const document = `{"annotations":[{"image_id":1,"bbox":[${text},2,3,4]},{"image_id":2}]}`;
      const store = new AnnotationStore();
      const read = () =>
        readTopLevelArrays(new MemoryTree({ f: document }, 7).stream("f"), {
          annotations: {
            rows: new AnnotationRows(store, () => undefined),
            element: (element) => void store.add(element),
          },
        });
      // NaN is what some writers leave in; it becomes null, and the box is none.
      if (text === "NaN") {
        await read();
        expect(known(store)[0]?.rows[0]?.object).toBeNull();
      } else await expect(read()).rejects.toThrow();
    },
  );
});
