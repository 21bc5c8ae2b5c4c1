import sharp from "sharp";
import { describe, expect, it } from "vitest";
import { openImage } from "./open";
import { probe } from "./probe";
import { flipped, recipeOf, renderOne } from "../tests/recipes";
import { renderedExtension, renderForScreen } from "./render";
import { thumbnail } from "./thumbnail";

type Colour = readonly [number, number, number];
type Bitmap = {
  width: number;
  height: number;
  bits: number;
  rows: Buffer;
  compression?: number;
  palette?: readonly Colour[];
  masks?: readonly number[];
  fromTop?: boolean;
};

/** A BITMAPINFOHEADER file laid out by hand: header, masks, colour table, rows. */
function bitmap({
  width,
  height,
  bits,
  rows,
  compression = 0,
  palette = [],
  masks = [],
  fromTop = false,
}: Bitmap): Buffer {
  const tables = Buffer.alloc(masks.length * 4 + palette.length * 4);
  masks.forEach((mask, n) => tables.writeUInt32LE(mask, n * 4));
  palette.forEach(([red, green, blue], n) => tables.set([blue, green, red, 0], (masks.length + n) * 4));
  const header = Buffer.alloc(54);
  header.write("BM", 0, "latin1");
  header.writeUInt32LE(54 + tables.length + rows.length, 2);
  header.writeUInt32LE(54 + tables.length, 10);
  header.writeUInt32LE(40, 14);
  header.writeInt32LE(width, 18);
  header.writeInt32LE(fromTop ? -height : height, 22);
  header.writeUInt16LE(1, 26);
  header.writeUInt16LE(bits, 28);
  header.writeUInt32LE(compression, 30);
  header.writeUInt32LE(rows.length, 34);
  header.writeUInt32LE(palette.length, 46);
  return Buffer.concat([header, tables, rows]);
}

/** A BITMAPCOREHEADER file: sizes of two bytes, a colour table of three bytes a colour, no compression. */
function coreBitmap({ width, height, bits, rows, palette = [] }: Bitmap): Buffer {
  const table = Buffer.from(palette.flatMap(([red, green, blue]) => [blue, green, red]));
  const header = Buffer.alloc(26);
  header.write("BM", 0, "latin1");
  header.writeUInt32LE(26 + table.length + rows.length, 2);
  header.writeUInt32LE(26 + table.length, 10);
  header.writeUInt32LE(12, 14);
  header.writeUInt16LE(width, 18);
  header.writeUInt16LE(height, 20);
  header.writeUInt16LE(1, 22);
  header.writeUInt16LE(bits, 24);
  return Buffer.concat([header, table, rows]);
}

const [red, green, blue, dim] = [
  [255, 0, 0],
  [0, 255, 0],
  [0, 0, 255],
  [10, 20, 30],
] as const;
/** Three across, two down. */
const picture: readonly (readonly Colour[])[] = [
  [red, green, blue],
  [dim, blue, red],
];
const colours = [red, green, blue, dim];
const index = ([r, g, b]: Colour) =>
  colours.findIndex((colour) => colour[0] === r && colour[1] === g && colour[2] === b);

/** Rows from the bottom up, each filled up to four bytes. */
function rows(of: (line: readonly Colour[]) => number[], fromTop = false): Buffer {
  const lines = picture.map((line) => {
    const bytes = of(line);
    return [...bytes, ...new Array<number>((4 - (bytes.length % 4)) % 4).fill(0)];
  });
  return Buffer.from((fromTop ? lines : lines.reverse()).flat());
}

const size = { width: 3, height: 2 };
const kinds: Record<string, Buffer> = {
  "24 bits": bitmap({ ...size, bits: 24, rows: rows((line) => line.flatMap(([r, g, b]) => [b, g, r])) }),
  "24 bits with the old header": coreBitmap({
    ...size,
    bits: 24,
    rows: rows((line) => line.flatMap(([r, g, b]) => [b, g, r])),
  }),
  "8 bits with the old header": coreBitmap({
    ...size,
    bits: 8,
    palette: Array.from({ length: 256 }, (_, n) => colours[n] ?? dim),
    rows: rows((line) => line.map(index)),
  }),
  "24 bits from the top": bitmap({
    ...size,
    bits: 24,
    fromTop: true,
    rows: rows((line) => line.flatMap(([r, g, b]) => [b, g, r]), true),
  }),
  "32 bits": bitmap({ ...size, bits: 32, rows: rows((line) => line.flatMap(([r, g, b]) => [b, g, r, 0])) }),
  "32 bits by masks": bitmap({
    ...size,
    bits: 32,
    compression: 3,
    masks: [0xff, 0xff00, 0xff0000],
    rows: rows((line) => line.flatMap(([r, g, b]) => [r, g, b, 0])),
  }),
  "8 bits": bitmap({ ...size, bits: 8, palette: colours, rows: rows((line) => line.map(index)) }),
  "4 bits": bitmap({
    ...size,
    bits: 4,
    palette: colours,
    rows: rows((line) => [(index(line[0] as Colour) << 4) | index(line[1] as Colour), index(line[2] as Colour) << 4]),
  }),
  "8 bits in runs": bitmap({
    ...size,
    bits: 8,
    compression: 1,
    palette: colours,
    rows: Buffer.from(
      [...picture]
        .reverse()
        .flatMap((line) => [...line.flatMap((colour) => [1, index(colour)]), 0, 0])
        .concat([0, 1]),
    ),
  }),
};

describe("a bitmap", () => {
  it("of each kind is read to the pixel", async () => {
    for (const [kind, bytes] of Object.entries(kinds)) {
      const { data, info } = await (await openImage(bytes)).raw().toBuffer({ resolveWithObject: true });
      expect([info.width, info.height, info.channels], kind).toEqual([3, 2, 3]);
      expect([...data], kind).toEqual(picture.flat(2));
      expect(await probe(bytes, 100), kind).toMatchObject({ width: 3, height: 2, orientation: 1, extension: "bmp" });
    }
  });
  it("of one bit a pixel, wider than a byte", async () => {
    const bytes = bitmap({
      width: 9,
      height: 1,
      bits: 1,
      palette: [dim, red],
      rows: Buffer.from([0b10000001, 0b10000000, 0, 0]),
    });
    const { data } = await (await openImage(bytes)).raw().toBuffer({ resolveWithObject: true });
    expect([...data]).toEqual([red, ...new Array<Colour>(6).fill(dim), red, red].flat());
  });
  it("is rendered as PNG where it changes, keeps its bytes where it does not, and has a thumbnail", async () => {
    const bytes = kinds["24 bits"] as Buffer;
    const flip = recipeOf(size, { warp: flipped(3) });
    expect(renderedExtension("bmp", flip, { as: "same" })).toBe("png");
    const turned = await sharp(await renderOne(bytes, flip))
      .raw()
      .toBuffer();
    expect([...turned]).toEqual(picture.map((line) => [...line].reverse()).flat(2));
    expect(await renderForScreen(bytes, 1, "bmp")).toEqual({ bytes, extension: "bmp" });
    expect(await sharp(await thumbnail(bytes, 100)).metadata()).toMatchObject({ format: "webp", width: 3, height: 2 });
  });
  it("that is too large, cut off, or none after all is refused in a sentence", async () => {
    const bytes = kinds["24 bits"] as Buffer;
    await expect(probe(bytes, 5)).rejects.toThrow(/3 × 2 pixels/);
    await expect(thumbnail(bytes, 5)).rejects.toThrow(/more than are allowed/);
    await expect(thumbnail(bytes.subarray(0, 60), 100)).rejects.toThrow(/cannot be decoded/);
    await expect(
      probe(Buffer.from("BM is how this text begins, which goes on for more than the length of a header"), 100),
    ).rejects.toThrow(/not an image/);
  });
});

describe("a picture for the screen", () => {
  it("is PNG where browsers do not show its kind, upright and with the same pixels", async () => {
    const pixels = Buffer.from(picture.flat(2));
    const tif = await sharp(pixels, { raw: { ...size, channels: 3 } })
      .withMetadata({ orientation: 3 })
      .tiff({ compression: "none" })
      .toBuffer();
    const shown = await renderForScreen(tif, 3, "tif");
    expect(shown.extension).toBe("png");
    expect((await sharp(shown.bytes).metadata()).format).toBe("png");
    expect([...(await sharp(shown.bytes).raw().toBuffer())]).toEqual(
      [...picture]
        .reverse()
        .flatMap((line) => [...line].reverse())
        .flat(),
    );
    const jpg = await sharp(pixels, { raw: { ...size, channels: 3 } })
      .jpeg()
      .toBuffer();
    expect(await renderForScreen(jpg, 1, "jpg")).toEqual({ bytes: jpg, extension: "jpg" });
  });
});
