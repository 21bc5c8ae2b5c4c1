/** Pixels in memory: row by row from the top left, channels interleaved, 8 or 16 bits each. */
export type Raster = {
  data: Uint8Array | Uint16Array;
  width: number;
  height: number;
  /** 1 grey, 2 grey and alpha, 3 red, green and blue, 4 with alpha. */
  channels: 1 | 2 | 3 | 4;
};

/** Pixels of 8 bits; those of 16 bits lose their lower half. */
export function inEightBits(raster: Raster): Raster & { data: Uint8Array } {
  const { data } = raster;
  if (data instanceof Uint8Array) return { ...raster, data };
  const bytes = new Uint8Array(data.length);
  for (let at = 0; at < data.length; at++) bytes[at] = Math.round((data[at] as number) / 257);
  return { ...raster, data: bytes };
}

/** Grey pixels as red, green and blue alike; what has colours stays. */
export function inColour(raster: Raster & { data: Uint8Array }): Raster & { data: Uint8Array } {
  if (raster.channels > 2) return raster;
  const { data, width, height } = raster;
  const alpha = raster.channels === 2;
  const channels = alpha ? 4 : 3;
  const out = new Uint8Array(width * height * channels);
  for (let pixel = 0; pixel < width * height; pixel++) {
    const value = data[pixel * raster.channels] as number;
    out.fill(value, pixel * channels, pixel * channels + 3);
    if (alpha) out[pixel * channels + 3] = data[pixel * 2 + 1] as number;
  }
  return { data: out, width, height, channels };
}
