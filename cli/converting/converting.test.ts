import { writeArchive } from "@larder/demo/archive";
import { manyPictures } from "@larder/demo/many";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { convertSource } from "./convert";
import { inspectSource } from "./inspect";

let folder: string;
let zip: string;
let objects: number;
beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "larder-convert-"));
  zip = path.join(folder, "source.zip");
  const files = await manyPictures(14, { width: 160, height: 120 });
  objects = (
    JSON.parse(new TextDecoder().decode(await (files[14] as (typeof files)[number]).bytes())) as {
      annotations: unknown[];
    }
  ).annotations.length;
  await writeArchive(zip, [
    ...files,
    { path: "images/text.jpg", bytes: () => Promise.resolve(new TextEncoder().encode("no picture")) },
  ]);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("inspect", () => {
  it("says what a zip holds, with the finding for the file that is no image", async () => {
    const inspection = await inspectSource(zip, undefined, []);
    expect(inspection).toMatchObject({
      format: "coco",
      images: 15,
      labeledImages: 14,
      objects,
      splits: { train: 0, val: 0, test: 0, none: 15 },
    });
    expect(inspection.classes.reduce((sum, row) => sum + row.objects, 0)).toBe(objects);
    expect(inspection.findings.find(({ code }) => code === "image-unreadable")).toMatchObject({
      severity: "error",
      count: 1,
    });
  });
  it("reads a folder, and one annotation file beside its images, and follows no link out of it", async () => {
    const place = path.join(folder, "beside");
    mkdirSync(path.join(place, "sub"), { recursive: true });
    const files = await manyPictures(2, { width: 60, height: 40 });
    for (const file of files) writeFileSync(path.join(place, path.basename(file.path)), await file.bytes());
    writeFileSync(
      path.join(place, "other.json"),
      '{"images": [], "annotations": [], "categories": [{"id": 1, "name": "stray"}]}',
    );
    symlinkSync("/etc", path.join(place, "sub", "etc"));
    expect((await inspectSource(place, undefined, [])).classes.map(({ name }) => name)).toContain("stray");
    const named = await inspectSource(path.join(place, "instances.json"), undefined, []);
    expect(named.classes.map(({ name }) => name)).not.toContain("stray");
    expect(named.images).toBe(2);
  });
  it("counts only what a selection means, objects of files and attributes among it", async () => {
    const place = path.join(folder, "where");
    mkdirSync(place, { recursive: true });
    const pictures = await manyPictures(3, { width: 200, height: 100 });
    for (const [n, file] of pictures.slice(0, 3).entries())
      writeFileSync(path.join(place, `rack_${n}.jpg`), await file.bytes());
    const rows = [
      ["rack_0.jpg", "roll", "10,10,50,40", "dark"],
      ["rack_0.jpg", "tart", "0,0,4,4", "pale"],
      ["rack_1.jpg", "roll", "10,10,50,40", "pale"],
    ];
    writeFileSync(
      path.join(place, "instances.json"),
      JSON.stringify({
        images: [0, 1, 2].map((id) => ({ id, file_name: `rack_${id}.jpg`, width: 200, height: 100 })),
        categories: [
          { id: 1, name: "roll" },
          { id: 2, name: "tart" },
        ],
        annotations: rows.map(([name, kind, bounds, bake], id) => ({
          id,
          image_id: Number((name as string)[5]),
          category_id: kind === "roll" ? 1 : 2,
          bbox: (bounds as string).split(",").map(Number),
          attributes: { bake },
        })),
      }),
    );
    const inspect = async (where: string) => {
      const { images, objects: found } = await inspectSource(place, undefined, [], undefined, where);
      return [images, found];
    };
    expect(await inspect("has roll")).toEqual([2, 3]);
    expect(await inspect("has roll (bake = dark)")).toEqual([1, 2]);
    expect(await inspect("has any (share < 1%) or objects = 0")).toEqual([2, 2]);
    expect(await inspect('name like "*_2.jpg" and width = 200 and delivery is unset')).toEqual([1, 0]);
    expect(await inspect("has zeppelin")).toEqual([0, 0]);
    await expect(inspect("has roll (bakee = dark)")).rejects.toThrow(/Did you mean bake/);
    const out = path.join(folder, "where-out");
    const { images, written } = await convertSource(place, out, { to: "yolo", option: [], where: "has tart" });
    expect([images, written]).toEqual([1, { images: 1, objects: 2 }]);
  });
  it("names pictures whose same bytes stand under two classes", async () => {
    const place = path.join(folder, "contradicting");
    const [first, second] = await manyPictures(2, { width: 60, height: 40, seed: 9 });
    for (const [name, file] of [
      ["roll/a.jpg", first],
      ["tart/b.jpg", first],
      ["roll/c.jpg", second],
      ["roll/d.jpg", second],
    ] as const) {
      mkdirSync(path.join(place, path.dirname(name)), { recursive: true });
      writeFileSync(path.join(place, name), (await file?.bytes()) ?? "");
    }
    const { findings, images } = await inspectSource(place, undefined, []);
    expect(images).toBe(4);
    expect(findings.map(({ code, count }) => [code, count])).toEqual([["label-contradiction", 1]]);
  });
  it("refuses in a sentence what is not there or no format", async () => {
    await expect(inspectSource("/nowhere/at/all", undefined, [])).rejects.toThrow(/no file or folder/);
    await expect(inspectSource(zip, "scrolls", [])).rejects.toThrow(/no format called "scrolls"/);
    await expect(inspectSource(zip, undefined, ["lone"])).rejects.toThrow(/KEY=VALUE/);
  });
});

describe("convert", () => {
  it("goes from coco to yolo and back with every box where it was", async () => {
    const [there, back] = [path.join(folder, "there"), path.join(folder, "deep", "back.zip")];
    const first = await convertSource(zip, there, { to: "yolo", option: [] });
    expect(first).toMatchObject({ from: "coco", to: "yolo", images: 15, objects, written: { images: 14, objects } });
    expect(Object.fromEntries(first.findings.map(({ code, count }) => [code, count]))).toMatchObject({
      "loss-split": 14,
      "image-unreadable": 1,
    });
    const second = await convertSource(there, back, { to: "coco", option: [] });
    expect(second.written).toEqual({ images: 14, objects });
    const again = await inspectSource(back, undefined, []);
    const original = await inspectSource(zip, undefined, []);
    expect([...again.classes].sort((a, b) => (a.name < b.name ? -1 : 1))).toEqual(
      [...original.classes].sort((a, b) => (a.name < b.name ? -1 : 1)),
    );
    expect(readFileSync(path.join(there, "data.yaml"), "utf8")).not.toContain("path:");
  });
  it("touches nothing in a place that holds something, and leaves nothing behind where it fails", async () => {
    const full = path.join(folder, "full");
    mkdirSync(full);
    writeFileSync(path.join(full, "mine.txt"), "mine");
    await expect(convertSource(zip, full, { to: "yolo", option: [] })).rejects.toThrow(/holds something already/);
    expect(readdirSync(full)).toEqual(["mine.txt"]);
    const broken = path.join(folder, "broken.zip");
    writeFileSync(broken, readFileSync(zip).subarray(0, 5000));
    const before = readdirSync(folder).sort();
    await expect(convertSource(broken, path.join(folder, "never"), { to: "yolo", option: [] })).rejects.toThrow(
      /cut off/,
    );
    expect(existsSync(path.join(folder, "never"))).toBe(false);
    expect(readdirSync(folder).sort()).toEqual(before);
  });
});
