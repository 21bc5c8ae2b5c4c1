import { createCanvas, loadImage } from "@napi-rs/canvas";
import { Failure } from "@larder/core/model/failure";
import { BMP } from "image-size/types/bmp";
import sharp, { type Sharp, type SharpOptions } from "sharp";

/** Header sizes of the bitmaps in use: BITMAPCOREHEADER, BITMAPINFOHEADER and its later versions. */
const coreHeader = 12;
const bitmapHeaders = new Set([coreHeader, 40, 52, 56, 64, 108, 124]);
const fileHeader = 14;

/** Whether the bytes are a Windows bitmap (BMP), which the image library does not read. */
export function isBitmap(bytes: Buffer): boolean {
  return (
    bytes.length > fileHeader + coreHeader &&
    bytes.toString("latin1", 0, 2) === "BM" &&
    bitmapHeaders.has(bytes.readUInt32LE(fileHeader)) &&
    bytes.length > fileHeader + bytes.readUInt32LE(fileHeader)
  );
}

function isCore(bytes: Buffer): boolean {
  return bytes.readUInt32LE(fileHeader) === coreHeader;
}

/** A bitmap's size: two words in the oldest header, two double words in all later ones. */
export function bitmapSize(bytes: Buffer): { width: number; height: number } {
  return isCore(bytes)
    ? { width: bytes.readUInt16LE(18), height: bytes.readUInt16LE(20) }
    : (({ width, height }) => ({ width, height }))(BMP.calculate(bytes));
}

/** Decoding that takes longer is given up: some files are made to take for ever. */
const decodeSeconds = 120;

const [runs8, runs4] = [1, 2];

/**
 * Where a bitmap must end at the earliest: rows of whole 32-bit words after the header, or as many bytes of runs as
 * the header tells.
 */
function bitmapEnd(bytes: Buffer): number {
  const { width, height } = bitmapSize(bytes);
  const compression = isCore(bytes) ? 0 : bytes.readUInt32LE(30);
  const bits = bytes.readUInt16LE(isCore(bytes) ? 24 : 28);
  const rows =
    compression === runs8 || compression === runs4
      ? bytes.readUInt32LE(34)
      : Math.ceil((width * bits) / 32) * 4 * height;
  return bytes.readUInt32LE(10) + rows;
}

/** A bitmap's pixels, red, green and blue, with alpha only where there is any that is not full. */
async function bitmapPixels(bytes: Buffer, maxPixels: number): Promise<Sharp> {
  const { width, height } = bitmapSize(bytes);
  if (width * height > maxPixels) throw new Failure("image-unreadable", "its pixels are more than are allowed");
  // What decodes it would fill up what is missing.
  if (bitmapEnd(bytes) > bytes.length) throw new Failure("image-unreadable", "the file is cut off");
  const image = await loadImage(bytes);
  const canvas = createCanvas(width, height);
  const context = canvas.getContext("2d");
  context.drawImage(image, 0, 0);
  const { data } = context.getImageData(0, 0, width, height);
  const pixels = sharp(data, { raw: { width, height, channels: 4 } });
  return data.some((value, at) => at % 4 === 3 && value < 255) ? pixels : pixels.removeAlpha();
}

/**
 * The image library on a picture; a kind that it does not read is decoded for it. Throws where the pixels cannot be
 * decoded or are more than `maxPixels`: pictures in stock were measured when they were taken in.
 */
export async function openImage(bytes: Uint8Array, maxPixels = Infinity, options: SharpOptions = {}): Promise<Sharp> {
  const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return isBitmap(buffer)
    ? bitmapPixels(buffer, maxPixels)
    : sharp(bytes, { ...options, limitInputPixels: Number.isFinite(maxPixels) ? maxPixels : false }).timeout({
        seconds: decodeSeconds,
      });
}
