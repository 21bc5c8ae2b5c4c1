import { hashDistance } from "@larder/core/checks/near-copies";
import { makeScene, nextShot } from "@larder/demo/scene";
import { renderScene } from "@larder/demo/render";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { nearCopyBits } from "@larder/core/checks/near-copies";
import { nearHashOf, thumbnailAndNearHash } from "./thumbnail";

const hashOf = async (bytes: Uint8Array) => (await thumbnailAndNearHash(bytes, 1e8)).nearHash;

const distance = (a: string, b: string) => hashDistance(Buffer.from(a, "hex"), Buffer.from(b, "hex"));

describe("the near-copy hash", () => {
  it("keeps two shots of one tray near and two trays apart", async () => {
    const scene = makeScene(6001);
    const [first, again, other] = await Promise.all(
      [scene, nextShot(scene), makeScene(6002)].map(async (drawn) => hashOf(await renderScene(drawn))),
    );
    expect(distance(first as string, again as string)).toBeLessThanOrEqual(nearCopyBits);
    expect(distance(first as string, other as string)).toBeGreaterThan(2 * nearCopyBits);
  });
  it("is nearly the same from a stored thumbnail, and after scaling, brightening and another quality", async () => {
    const bytes = await renderScene(makeScene(6003));
    const { thumbnail, nearHash } = await thumbnailAndNearHash(bytes, 1e8);
    const changed = await sharp(bytes).resize(480).linear(1.08).jpeg({ quality: 55 }).toBuffer();
    for (const other of [await nearHashOf(thumbnail), await hashOf(changed)])
      expect(distance(nearHash, other)).toBeLessThanOrEqual(nearCopyBits / 2);
  });
});
