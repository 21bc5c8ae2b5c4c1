import sharp from "sharp";
import { createHash } from "node:crypto";
import { describe, expect, it } from "vitest";
import { renderBasket } from "./baskets";
import { renderScene } from "./render";
import { frame, makeScene } from "./scene";
import { makeShots, demoDeliveries } from "./shifts";
import { trueBreads } from "./truth";

const hash = (bytes: Uint8Array) => createHash("sha256").update(bytes).digest("hex");

describe("the demo's pictures", () => {
  it("are the same bytes for the same seed, and others for another", async () => {
    const scene = makeScene(12);
    const first = hash(await renderScene(scene));
    expect(hash(await renderScene(makeScene(12)))).toBe(first);
    expect(hash(await renderScene(makeScene(13)))).not.toBe(first);
    expect(hash(await renderBasket("ready", 4))).toBe(hash(await renderBasket("ready", 4)));
  });
  it("lie on their side where the camera was turned, with the flag that sets them upright", async () => {
    const metadata = await sharp(await renderScene(makeScene(3), { turned: true })).metadata();
    expect([metadata.width, metadata.height, metadata.orientation]).toEqual([frame.height, frame.width, 6]);
  });
  it("hold what the truth says: pixels inside a box differ from the same tray left empty", async () => {
    const scene = makeScene(21);
    const full = await sharp(await renderScene(scene))
      .raw()
      .toBuffer();
    const bare = await sharp(await renderScene({ ...scene, breads: [] }))
      .raw()
      .toBuffer();
    const breads = trueBreads(scene);
    expect(breads.length).toBeGreaterThan(2);
    for (const { box } of breads) {
      const x = Math.round(box.x + box.width / 2);
      let differing = 0;
      for (let y = Math.ceil(box.y); y < box.y + box.height; y++)
        if (Math.abs((full[(y * frame.width + x) * 3] as number) - (bare[(y * frame.width + x) * 3] as number)) > 12)
          differing++;
      expect(differing).toBeGreaterThan(box.height * 0.25);
      expect(box.x).toBeGreaterThanOrEqual(0);
      expect(box.y + box.height).toBeLessThanOrEqual(frame.height);
    }
  });
  it("come with faults to find, and enough of them", () => {
    const shots = makeShots("x", 1, 100);
    expect(shots.filter(({ broken }) => broken)).toHaveLength(1);
    expect(shots.filter(({ turned }) => turned).length).toBeGreaterThan(1);
    expect(shots.filter(({ scene }) => scene.breads.length === 0).length).toBeGreaterThan(1);
    const pictures = demoDeliveries().map(({ files }) => files.filter(({ path }) => path.endsWith(".jpg")).length);
    expect((pictures[0] ?? 0) + (pictures[1] ?? 0) + (pictures[2] ?? 0)).toBeGreaterThanOrEqual(240);
    expect(pictures[4]).toBeGreaterThanOrEqual(150);
  });
});
