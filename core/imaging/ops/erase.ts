import { streamOf } from "../../model/seeded";
import type { Box } from "../../model/shape";
import { parsedColour } from "../pixels/colour";
import { patchOp, type ColourRaster } from "./op";

function meanColour({ data, channels }: ColourRaster): [number, number, number] {
  const sums: [number, number, number] = [0, 0, 0];
  for (let at = 0; at < data.length; at += channels)
    for (const channel of [0, 1, 2] as const) sums[channel] += data[at + channel] as number;
  const pixels = data.length / channels;
  return sums.map((sum) => Math.round(sum / pixels)) as [number, number, number];
}

function paint(raster: ColourRaster, { x, y, width, height }: Box, colour: () => readonly number[]): void {
  for (let row = y; row < y + height; row++)
    for (let column = x; column < x + width; column++)
      raster.data.set(colour(), (row * raster.width + column) * raster.channels);
}

export const erase = patchOp({
  name: "erase",
  title: "Erase",
  against: "hidden things",
  help: "Rectangles at drawn places are painted over. An object that is covered beyond what must stay visible goes.",
  parameters: {
    count: { kind: "number", min: 1, max: 20, unit: "", whole: true, default: [1, 3], help: "of rectangles" },
    share: { kind: "number", min: 0.001, max: 0.3, unit: "share", default: [0.01, 0.05], help: "of the picture, each" },
    fill: {
      kind: "choice",
      options: ["noise", "mean"],
      colour: true,
      default: "noise",
      help: "what they are painted with: noise, the picture's mean, or a colour",
    },
  },
  covers: true,
  places: ({ count, share }, size, _, draws) =>
    Array.from({ length: count }, () => {
      const area = share * size.width * size.height;
      const ratio = Math.exp(draws.between(-Math.LN2, Math.LN2));
      const side = (length: number, most: number) => Math.max(1, Math.min(most, Math.round(length)));
      const width = side(Math.sqrt(area * ratio), size.width);
      const height = side(area / width, size.height);
      const x = draws.whole(0, size.width - width);
      return { x, y: draws.whole(0, size.height - height), width, height };
    }),
  change: (raster, { fill }, places, seed) => {
    const next = streamOf(seed);
    const level = () => Math.floor(next() * 256);
    const still = fill === "mean" ? meanColour(raster) : fill === "noise" ? null : parsedColour(fill);
    for (const box of places) paint(raster, box, () => still ?? [level(), level(), level()]);
  },
});
