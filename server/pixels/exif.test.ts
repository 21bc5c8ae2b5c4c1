import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { noExif, readExif } from "./exif";
import { probe } from "./probe";

/** A JPEG with an EXIF segment of one entry put in after its first two bytes, laid out by hand as CIPA DC-008 says. */
function withFlag(jpeg: Buffer, { flag, little, listAt }: { flag: number; little: boolean; listAt: number }): Buffer {
  const tiff = Buffer.alloc(listAt + 2 + 12 + 4);
  const two = (value: number, at: number) => (little ? tiff.writeUInt16LE(value, at) : tiff.writeUInt16BE(value, at));
  const four = (value: number, at: number) => (little ? tiff.writeUInt32LE(value, at) : tiff.writeUInt32BE(value, at));
  tiff.write(little ? "II" : "MM", 0, "latin1");
  two(42, 2);
  four(listAt, 4);
  two(1, listAt);
  // Orientation, one SHORT.
  two(0x0112, listAt + 2);
  two(3, listAt + 4);
  four(1, listAt + 6);
  two(flag, listAt + 10);
  const segment = Buffer.concat([Buffer.from([0xff, 0xe1, 0, 0]), Buffer.from("Exif\0\0", "latin1"), tiff]);
  segment.writeUInt16BE(segment.length - 2, 2);
  return Buffer.concat([jpeg.subarray(0, 2), segment, jpeg.subarray(2)]);
}

describe("readExif", () => {
  const shot = (exif: Record<string, Record<string, string>>) =>
    sharp({ create: { width: 8, height: 8, channels: 3, background: "#a63" } })
      .withExif(exif)
      .jpeg()
      .toBuffer();
  it("reads the camera's clock and degrees, minutes, seconds on each side of equator and meridian", async () => {
    const place = (latitude: string, longitude: string) => ({
      GPSLatitudeRef: latitude,
      GPSLatitude: "33/1 51/1 3600/100",
      GPSLongitudeRef: longitude,
      GPSLongitude: "18/1 25/1 30/1",
    });
    const south = await readExif(
      await shot({ IFD2: { DateTimeOriginal: "2026:02:28 23:59:59" }, IFD3: place("S", "W") }),
    );
    expect(south.takenAt).toBe("2026-02-28T23:59:59");
    expect(south.latitude).toBeCloseTo(-33.86, 9);
    expect(south.longitude).toBeCloseTo(-18.425, 9);
    const north = await readExif(await shot({ IFD3: place("N", "E") }));
    expect([north.takenAt, (north.latitude ?? 0) > 33, (north.longitude ?? 0) > 18]).toEqual([null, true, true]);
  });
  it("takes a clock that was never set, a date that is none, and broken EXIF for nothing", async () => {
    for (const clock of ["0000:00:00 00:00:00", "2026:02:30 10:00:00", "yesterday"])
      expect((await readExif(await shot({ IFD2: { DateTimeOriginal: clock } }))).takenAt).toBeNull();
    const broken = Buffer.from(await shot({ IFD2: { DateTimeOriginal: "2026:02:28 23:59:59" } }));
    broken.fill(0xff, 30, 200);
    expect(await readExif(broken)).toEqual(noExif);
    expect(await readExif(new Uint8Array([1, 2, 3]))).toEqual(noExif);
  });
  it("reads the camera's flag in either byte order and wherever its list lies, and takes a flag that is none for upright", async () => {
    const plain = await sharp({ create: { width: 30, height: 20, channels: 3, background: "#a63" } })
      .jpeg()
      .toBuffer();
    for (const little of [true, false]) {
      for (const listAt of [8, 26]) {
        for (let flag = 0; flag <= 9; flag++) {
          const bytes = withFlag(plain, { flag, little, listAt });
          const name = `flag ${flag}, ${little ? "little" : "big"} end first, list at ${listAt}`;
          const expected = flag >= 1 && flag <= 8 ? flag : 1;
          expect((await readExif(bytes)).orientation, name).toBe(expected);
          const facts = await probe(bytes, 1e6);
          expect([facts.orientation, facts.width, facts.height], name).toEqual([
            expected,
            ...(expected >= 5 ? [20, 30] : [30, 20]),
          ]);
          // The image library, which turns the thumbnail, reads the same.
          const { info } = await sharp(bytes).rotate().toBuffer({ resolveWithObject: true });
          expect([info.width, info.height], name).toEqual([facts.width, facts.height]);
        }
      }
    }
  });
});
