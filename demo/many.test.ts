import sharp from "sharp";
import { createHash } from "node:crypto";
import { expect, it } from "vitest";
import { manyPictures } from "./many";

it("any number of pictures are all different, of the size asked for, with boxes inside them", async () => {
  const files = await manyPictures(60, { width: 320, height: 240 });
  const hashes = await Promise.all(
    files.map(async (file) =>
      createHash("sha256")
        .update(await file.bytes())
        .digest("hex"),
    ),
  );
  expect(new Set(hashes).size).toBe(61);
  const { width, height } = await sharp(await (files[7] as (typeof files)[number]).bytes()).metadata();
  expect([width, height]).toEqual([320, 240]);
  const json = JSON.parse(new TextDecoder().decode(await (files[60] as (typeof files)[number]).bytes())) as {
    annotations: { bbox: [number, number, number, number] }[];
  };
  expect(json.annotations.length).toBeGreaterThan(100);
  for (const { bbox } of json.annotations)
    expect(bbox[0] >= 0 && bbox[1] >= 0 && bbox[0] + bbox[2] <= 320 + 1e-6 && bbox[1] + bbox[3] <= 240 + 1e-6).toBe(
      true,
    );
});
