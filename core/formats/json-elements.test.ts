import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { MemoryTree } from "../tests/memory-tree";
import { JsonUnreadable, readTopLevelArrays } from "./json-elements";

async function elements(
  text: string,
  chunk: number,
  keys: string[],
): Promise<{ found: Record<string, unknown[]>; seen: string[] }> {
  const found: Record<string, unknown[]> = Object.fromEntries(keys.map((key) => [key, []]));
  const handlers = Object.fromEntries(keys.map((key) => [key, (element: unknown) => found[key]?.push(element)]));
  const seen = await readTopLevelArrays(new MemoryTree({ f: text }, chunk).stream("f"), handlers);
  return { found, seen };
}

describe("readTopLevelArrays", () => {
  it("gives the elements that JSON.parse gives, wherever the chunks are cut", async () => {
    const value = fc.jsonValue({ maxDepth: 3 });
    const document = fc.record({
      images: fc.array(value, { maxLength: 6 }),
      other: value,
      annotations: fc.array(value, { maxLength: 6 }),
    });
    await fc.assert(
      fc.asyncProperty(document, fc.integer({ min: 1, max: 40 }), fc.boolean(), async (doc, chunk, pretty) => {
        const text = JSON.stringify(doc, null, pretty ? 2 : 0);
        const parsed = JSON.parse(text) as typeof doc;
        const { found, seen } = await elements(text, chunk, ["images", "annotations"]);
        expect(found).toEqual({ images: parsed.images, annotations: parsed.annotations });
        expect(seen).toEqual(["images", "other", "annotations"]);
      }),
      { numRuns: 150 },
    );
  });

  it("is not led astray by brackets and quotes inside strings", async () => {
    const doc = {
      'a [key] "quoted" {': 1,
      images: [{ name: 'x"]},[{' }, "\\", '\\"', ["images", { images: [1] }]],
      images2: [7],
    };
    const { found } = await elements(JSON.stringify(doc), 3, ["images"]);
    expect(found["images"]).toEqual(doc.images);
  });

  it("does not take an array of the same name that lies deeper", async () => {
    const { found } = await elements('{"info": {"images": [1, 2]}, "images": [3]}', 5, ["images"]);
    expect(found["images"]).toEqual([3]);
  });

  it("reads letters of any script, cut in the middle of their bytes", async () => {
    const doc = { images: [{ file_name: "Brötchen-パン-🥐.jpg" }] };
    for (const chunk of [1, 2, 3, 5])
      expect((await elements(JSON.stringify(doc), chunk, ["images"])).found["images"]).toEqual(doc.images);
  });

  it("goes through megabytes in batches", async () => {
    const images = Array.from({ length: 60_000 }, (_, id) => ({
      id,
      file_name: `image_${id}_with_a_rather_long_name.jpg`,
    }));
    const { found } = await elements(JSON.stringify({ images }), 65_536, ["images"]);
    expect(found["images"]).toHaveLength(60_000);
    expect(found["images"]?.[59_999]).toEqual(images[59_999]);
  });

  it("takes a byte order mark, empty arrays and space anywhere", async () => {
    expect(
      (await elements('\uFEFF \n{ "images" : [ ] , "annotations":[ 1 ,\n2 ] }\n', 4, ["images", "annotations"])).found,
    ).toEqual({ images: [], annotations: [1, 2] });
  });

  it.each([
    ["", /middle/],
    ["[1]", /not a JSON object/],
    ["nonsense", /not a JSON object/],
    ['{"images": [1, 2', /middle/],
    ['{"images": [{]}', /bracket/],
    ['{"images": [1 2]}', /./],
    ['{"a": "b', /middle/],
  ])("says why %j cannot be read", async (text, sentence) => {
    const attempt = elements(text, 6, ["images"]);
    await expect(attempt).rejects.toThrow(JsonUnreadable);
    await expect(elements(text, 6, ["images"])).rejects.toThrow(sentence);
  });
});
