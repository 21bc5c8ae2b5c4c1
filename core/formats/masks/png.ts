/** Masks as PNG: palette or grey values, or colours. */
import { decode, encode } from "fast-png";

/** A mask's pixels: one value each, or packed colours (r << 16 | g << 8 | b). */
export type MaskPixels = {
  width: number;
  height: number;
  values: Uint8Array | Uint16Array | Uint32Array;
  coloured: boolean;
};

/** What a mask may unpack to: a small file can claim any size. */
const mostBytes = 2 ** 27;
/** Values a pixel, by the colour type of the header. Source: PNG (third edition), 11.2.1. */
const channelsOf = new Map([
  [0, 1],
  [2, 3],
  [3, 1],
  [4, 2],
  [6, 4],
]);

/** One value a pixel from rows of 1, 2 or 4 bits, each row on a byte of its own. */
function unpack(data: Uint8Array, width: number, height: number, depth: number): Uint8Array {
  const values = new Uint8Array(width * height);
  const stride = Math.ceil((width * depth) / 8);
  const perByte = 8 / depth;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const byte = data[y * stride + Math.floor(x / perByte)] as number;
      values[y * width + x] = (byte >> (8 - depth * ((x % perByte) + 1))) & ((1 << depth) - 1);
    }
  }
  return values;
}

/** Decodes a PNG mask. Throws where it is none, or too large to hold. */
export function decodeMask(bytes: Uint8Array): MaskPixels {
  const header = new DataView(bytes.buffer, bytes.byteOffset, Math.min(bytes.byteLength, 26));
  if (bytes.byteLength < 26 || header.getUint32(0) !== 0x89504e47) throw new Error("it is not a PNG");
  const bits = header.getUint8(24) * (channelsOf.get(header.getUint8(25)) ?? 4);
  if ((header.getUint32(16) * header.getUint32(20) * bits) / 8 > mostBytes) throw new Error("it is too large");
  const { width, height, data, channels, depth } = decode(bytes);
  if (channels === 1) {
    const values = depth < 8 ? unpack(data as Uint8Array, width, height, depth) : (data as Uint8Array | Uint16Array);
    return { width, height, values, coloured: false };
  }
  const shift = depth === 16 ? 8 : 0;
  const values = new Uint32Array(width * height);
  for (let i = 0; i < values.length; i++) {
    const at = i * channels;
    // Grey with alpha is grey; of colours the alpha is left aside.
    values[i] =
      channels === 2
        ? (data[at] as number)
        : (((data[at] as number) >> shift) << 16) |
          (((data[at + 1] as number) >> shift) << 8) |
          ((data[at + 2] as number) >> shift);
  }
  return { width, height, values, coloured: channels > 2 };
}

/** Encodes values with a palette where they fit into a byte, as 16-bit grey otherwise. */
export function encodeMask(
  values: Uint16Array,
  width: number,
  height: number,
  palette: readonly [number, number, number][],
): Uint8Array {
  let highest = 0;
  for (const value of values) if (value > highest) highest = value;
  if (highest > 255) return encode({ width, height, data: values, channels: 1, depth: 16 });
  const colours = Array.from({ length: highest + 1 }, (_, n) => [...(palette[n] ?? paletteColour(n))]);
  return encode({ width, height, data: Uint8Array.from(values), channels: 1, depth: 8, palette: colours });
}

/** A colour for a value, well apart from its neighbours: hues a golden angle apart; 0 is black. */
export function paletteColour(value: number): [number, number, number] {
  if (value === 0) return [0, 0, 0];
  const hue = (value * 137.508) % 360;
  const light = 0.5 + 0.16 * ((value % 3) - 1);
  const chroma = (1 - Math.abs(2 * light - 1)) * 0.62;
  const channel = (n: number) => {
    const k = (n + hue / 30) % 12;
    return Math.round(255 * (light - (chroma / 2) * Math.max(-1, Math.min(k - 3, 9 - k, 1))));
  };
  return [channel(0), channel(8), channel(4)];
}
