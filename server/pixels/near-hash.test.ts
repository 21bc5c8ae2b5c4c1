import { hashDistance } from "@larder/core/checks/near-copies";
import { makeScene, nextShot } from "@larder/demo/scene";
import { renderScene } from "@larder/demo/render";
import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { nearCopyBits } from "../services/intake/near-copies";
import { nearHashOf, thumbnailAndNearHash } from "./thumbnail";
import { whenAndWhere } from "./when-and-where";

const hashOf = async (bytes: Uint8Array) => (await thumbnailAndNearHash(bytes, 1e8)).nearHash;

const distance = (a: string, b: string) => hashDistance(Buffer.from(a, "hex"), Buffer.from(b, "hex"));

describe("the near-copy hash", () => {
  it("keeps two shots of one tray near and two trays apart", async () => {
    const scene = makeScene(6001);
    const [first, again, other] = await Promise.all([scene, nextShot(scene), makeScene(6002)].map(async (drawn) => hashOf(await renderScene(drawn))));
    expect(distance(first as string, again as string)).toBeLessThanOrEqual(nearCopyBits);
    expect(distance(first as string, other as string)).toBeGreaterThan(2 * nearCopyBits);
  });
  it("is nearly the same from a stored thumbnail, and after scaling, brightening and another quality", async () => {
    const bytes = await renderScene(makeScene(6003));
    const { thumbnail, nearHash } = await thumbnailAndNearHash(bytes, 1e8);
    const changed = await sharp(bytes).resize(480).linear(1.08).jpeg({ quality: 55 }).toBuffer();
    for (const other of [await nearHashOf(thumbnail), await hashOf(changed)]) expect(distance(nearHash, other)).toBeLessThanOrEqual(nearCopyBits / 2);
  });
});

describe("whenAndWhere", () => {
  const shot = (exif: Record<string, Record<string, string>>) => sharp({ create: { width: 8, height: 8, channels: 3, background: "#a63" } }).withExif(exif).jpeg().toBuffer();
  it("reads the camera's clock and degrees, minutes, seconds on each side of equator and meridian", async () => {
    const place = (latitude: string, longitude: string) => ({ GPSLatitudeRef: latitude, GPSLatitude: "33/1 51/1 3600/100", GPSLongitudeRef: longitude, GPSLongitude: "18/1 25/1 30/1" });
    const south = await whenAndWhere(await shot({ IFD2: { DateTimeOriginal: "2026:02:28 23:59:59" }, IFD3: place("S", "W") }));
    expect(south.takenAt).toBe("2026-02-28T23:59:59");
    expect(south.latitude).toBeCloseTo(-33.86, 9);
    expect(south.longitude).toBeCloseTo(-18.425, 9);
    const north = await whenAndWhere(await shot({ IFD3: place("N", "E") }));
    expect([north.takenAt, (north.latitude ?? 0) > 33, (north.longitude ?? 0) > 18]).toEqual([null, true, true]);
  });
  it("takes a clock that was never set, a date that is none, and broken EXIF for nothing", async () => {
    for (const clock of ["0000:00:00 00:00:00", "2026:02:30 10:00:00", "yesterday"]) expect((await whenAndWhere(await shot({ IFD2: { DateTimeOriginal: clock } }))).takenAt).toBeNull();
    const broken = Buffer.from(await shot({ IFD2: { DateTimeOriginal: "2026:02:28 23:59:59" } }));
    broken.fill(0xff, 30, 60);
    expect(await whenAndWhere(broken)).toEqual({ takenAt: null, latitude: null, longitude: null });
    expect(await whenAndWhere(new Uint8Array([1, 2, 3]))).toEqual({ takenAt: null, latitude: null, longitude: null });
  });
});
