import { describe, expect, it } from "vitest";
import { MemoryTree } from "../tests/memory-tree";
import { readTopLevelArrays } from "./json-elements";

/**
 * Above a megabyte the reader cuts at seams between objects; what looks like a seam may lie inside a string or a
 * nested list.
 */
const chunk = 64 * 1024;

async function read(text: string, keys: string[]) {
  const found: Record<string, unknown[]> = Object.fromEntries(keys.map((key) => [key, []]));
  await readTopLevelArrays(
    new MemoryTree({ f: text }, chunk).stream("f"),
    Object.fromEntries(keys.map((key) => [key, (element: unknown) => found[key]?.push(element)])),
  );
  return found;
}

const many = <T>(count: number, make: (n: number) => T) => Array.from({ length: count }, (_, n) => make(n));

describe("a JSON of several megabytes", () => {
  it("is read as JSON.parse reads it, two large lists and what lies between them", async () => {
    const doc = {
      info: { year: 2026, note: "x".repeat(3000) },
      images: many(30_000, (id) => ({ id, file_name: `p${id}.jpg`, width: 640, height: 480 })),
      licenses: [{ id: 1 }],
      annotations: many(30_000, (id) => ({
        id,
        image_id: id,
        bbox: [id % 600, 1.5, 20, 30.25],
        segmentation: [[1, 2, 3, 4, 5, 6]],
      })),
      categories: [{ id: 1, name: "roll" }],
    };
    for (const pretty of [0, 2]) {
      const found = await read(JSON.stringify(doc, null, pretty), ["images", "annotations", "categories"]);
      expect(found["images"]).toEqual(doc.images);
      expect(found["annotations"]).toEqual(doc.annotations);
      expect(found["categories"]).toEqual(doc.categories);
    }
  });
  it("is not cut inside strings that look like a seam, at any place", async () => {
    const images = many(9000, (id) => ({
      id,
      name: `a},{"id": ${id}},{ \\" ] } , {`.repeat(1 + (id % 5)),
      list: [{ deep: [{ x: 1 }, { y: "},{" }] }, { z: 2 }],
    }));
    expect((await read(JSON.stringify({ images }), ["images"]))["images"]).toEqual(images);
  });
  it("is read where its elements are no objects, and where one is larger than a megabyte", async () => {
    const numbers = many(400_000, (n) => n * 1.5);
    const mixed = [
      1,
      "two",
      null,
      [3, [4]],
      { five: 5 },
      "x".repeat(2_500_000),
      { large: many(200_000, (n) => n) },
      true,
    ];
    const found = await read(JSON.stringify({ images: numbers, annotations: mixed }), ["images", "annotations"]);
    expect(found["images"]).toEqual(numbers);
    expect(found["annotations"]).toEqual(mixed);
  });
  it("keeps to its elements where bare NaN and Infinity stand among them", async () => {
    const lines = many(
      40_000,
      (id) =>
        `{"id":${id},"score":${id % 1000 === 7 ? "NaN" : id % 1000 === 8 ? "-Infinity" : "0.5"},"name":"NaN, Infinity"}`,
    );
    const found = await read(`{"annotations":[${lines.join(",")}]}`, ["annotations"]);
    expect(found["annotations"]).toHaveLength(40_000);
    expect([6, 7, 8, 1007].map((n) => (found["annotations"]?.[n] as { score: number | null }).score)).toEqual([
      0.5,
      null,
      null,
      null,
    ]);
    expect(found["annotations"]?.[7]).toMatchObject({ name: "NaN, Infinity" });
  });
  it("that is cut off gives a sentence, not half a reading as a whole", async () => {
    const text = JSON.stringify({ images: many(40_000, (id) => ({ id, file_name: `p${id}.jpg` })) });
    await expect(read(text.slice(0, -200_000), ["images"])).rejects.toThrow();
  });
});
