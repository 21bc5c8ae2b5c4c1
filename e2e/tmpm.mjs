import sharp from "sharp";
const [out, ...names] = process.argv.slice(2);
const tiles = await Promise.all(names.map((n) => sharp(`/tmp/b/${n}.png`).resize(960, 600).toBuffer()));
const cols = 2,
  rows = Math.ceil(names.length / 2);
await sharp({ create: { width: 960 * cols, height: 600 * rows, channels: 3, background: "#888" } })
  .composite(tiles.map((input, i) => ({ input, left: 960 * (i % 2), top: 600 * Math.floor(i / 2) })))
  .png()
  .toFile(`/tmp/b/${out}.png`);
