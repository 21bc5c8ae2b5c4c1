/** The shelf of samples, and what the simulated bucket and the folder of arrivals hold: drawn once, from seeds. */
import { existsSync } from "node:fs";
import { mkdir, rename, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { makeSlips, slipsPdf } from "./slips";
import { basketDelivery, cocoDelivery, makeShots, yoloDelivery, type DemoFile } from "./shifts";

export type DemoSample = {
  name: string;
  title: string;
  description: string;
  images: number;
  format: string;
  licence: string;
  citation: string;
  files: () => DemoFile[];
};

const licence = "CC0 1.0";
const citation = "Millrace Bakery, a made-up bakery drawn by Larder, 2026.";

/** The samples; `share` below 1 makes them smaller. */
export function demoSamples(share = 1): DemoSample[] {
  const some = (count: number) => Math.max(4, Math.round(count * Math.min(1, share)));
  const racks = some(20);
  const boxes = some(14);
  const baskets = some(36);
  const slips = some(8);
  return [
    {
      name: "rack-sampler",
      title: "Rack sampler",
      description:
        "Trays of bread under a fixed camera: outlines, how well each is baked, and five points on every pretzel.",
      images: racks,
      format: "coco",
      licence,
      citation,
      files: () => cocoDelivery(makeShots("sampler", 6100, racks, { faults: false })),
    },
    {
      name: "rack-boxes",
      title: "Rack boxes",
      description: "The same camera on another day, as plain boxes in text files. A few reach past the picture's edge.",
      images: boxes,
      format: "yolo",
      licence,
      citation,
      files: () => yoloDelivery(makeShots("boxes", 6400, boxes, { faults: false })),
    },
    {
      name: "proof-baskets",
      title: "Proof baskets",
      description: "One dough in a basket, one class a picture: under, ready or over. Sorted into folders.",
      images: baskets,
      format: "class-folders",
      licence,
      citation,
      files: () => basketDelivery(9000, baskets),
    },
    {
      name: "delivery-slips",
      title: "Delivery slips",
      description: "Printed slips in one PDF. Pages become pictures, and their words come along with boxes.",
      images: slips,
      format: "pdf",
      licence,
      citation,
      files: () => [{ path: "delivery-slips.pdf", bytes: () => slipsPdf(makeSlips(50, slips)) }],
    },
  ];
}

async function write(folder: string, files: readonly DemoFile[]): Promise<void> {
  for (const file of files) {
    const target = path.join(folder, file.path);
    await mkdir(path.dirname(target), { recursive: true });
    await writeFile(target, await file.bytes());
  }
}

/** Fills `folder` by `fill`, unless it is there; it appears whole or not at all. */
async function once(folder: string, fill: (aside: string) => Promise<void>): Promise<void> {
  if (existsSync(folder)) return;
  const aside = `${folder}.part`;
  await rm(aside, { recursive: true, force: true });
  await mkdir(aside, { recursive: true });
  await fill(aside);
  await rename(aside, folder);
}

/**
 * Draws the shelf below `home`: samples/, the bucket's stand-in/millrace/ and incoming/, each where it is not there
 * yet.
 */
export async function drawShelf(home: string, share: number): Promise<void> {
  for (const { files, ...sample } of demoSamples(share)) {
    await mkdir(path.join(home, "samples"), { recursive: true });
    await once(path.join(home, "samples", sample.name), async (folder) => {
      await write(path.join(folder, "files"), files());
      await writeFile(path.join(folder, "sample.json"), `${JSON.stringify(sample, null, 2)}\n`);
    });
  }
  const some = (count: number) => Math.max(4, Math.round(count * Math.min(1, share)));
  await mkdir(path.join(home, "stand-in", "millrace"), { recursive: true });
  await once(path.join(home, "stand-in", "millrace", "night-shift"), (folder) =>
    write(folder, cocoDelivery(makeShots("night", 6700, some(14), { faults: false }))),
  );
  await mkdir(path.join(home, "incoming"), { recursive: true });
  await once(path.join(home, "incoming", "market-stall"), (folder) =>
    write(folder, yoloDelivery(makeShots("stall", 6900, some(10), { faults: false }))),
  );
}
