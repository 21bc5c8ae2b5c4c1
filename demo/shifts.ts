/** The demo's deliveries: which pictures each shift sends, in which format, with which faults built in. */
import sharp from "sharp";
import { pretzelKeypoints } from "./breads/pretzel";
import { proofs, renderBasket } from "./baskets";
import { renderScene } from "./render";
import { breadKinds, frame, makeScene, nextShot, type Scene } from "./scene";
import { asObject, trueBreads } from "./truth";
import { shapeArea } from "@larder/core/geometry/shape";
import { splitNames, type Split } from "@larder/core/model/item";

export type DemoFile = { path: string; bytes: () => Promise<Uint8Array> };

/** A shot of the rack camera: what is on it and whether the file lies on its side. */
export type Shot = {
  name: string;
  scene: Scene;
  turned: boolean;
  broken: boolean;
  annotated: boolean;
  /** "YYYY:MM:DD hh:mm:ss" where the file tells when and where it was taken. */ clock?: string;
};

/**
 * `count` shots in a row; every ninth is the same tray again, some are empty, some lie on their side, one is broken.
 */
export function makeShots(
  prefix: string,
  firstSeed: number,
  count: number,
  { faults = true }: { faults?: boolean } = {},
): Shot[] {
  const shots: Shot[] = [];
  for (let i = 0; i < count; i++) {
    const before = shots[i - 1];
    const again = faults && i % 9 === 8 && before;
    const empty = faults && i % 23 === 11;
    shots.push({
      name: `${prefix}_${String(i + 1).padStart(4, "0")}.jpg`,
      scene: again ? nextShot(before.scene) : makeScene(firstSeed + i, { empty }),
      turned: faults && i % 31 === 17,
      broken: faults && i === 40,
      annotated: !(faults && i % 29 === 20),
    });
  }
  return shots;
}

async function shotBytes(shot: Shot): Promise<Uint8Array> {
  if (shot.broken) return new TextEncoder().encode("The card was full; this picture was never written.\n");
  const bytes = await renderScene(shot.scene, { turned: shot.turned });
  if (!shot.clock) return bytes;
  return sharp(bytes)
    .withMetadata({ orientation: shot.turned ? 6 : 1 })
    .withExifMerge({
      IFD0: { Make: "Millrace" },
      IFD2: { DateTimeOriginal: shot.clock },
      IFD3: {
        GPSLatitudeRef: "N",
        GPSLatitude: "47/1 22/1 1200/100",
        GPSLongitudeRef: "E",
        GPSLongitude: "8/1 32/1 2400/100",
      },
    })
    .jpeg({ quality: 93 })
    .toBuffer();
}

/** Shots with the camera's clock and place in their files, a few minutes apart from `first` (UTC) on. */
function clocked(shots: readonly Shot[], first: Date): Shot[] {
  return shots.map((shot, index) => ({
    ...shot,
    clock: new Date(first.getTime() + index * 420_000)
      .toISOString()
      .slice(0, 19)
      .replaceAll("-", ":")
      .replace("T", " "),
  }));
}

const text = (path: string, content: string): DemoFile => ({
  path,
  bytes: () => Promise.resolve(new TextEncoder().encode(content)),
});

/** The shift's own dealing: of ten shots seven train, two validate, one tests. */
export function splitOfShot(index: number): Split {
  return index % 10 < 7 ? "train" : index % 10 < 9 ? "val" : "test";
}

/** COCO with outlines, bake as an attribute and keypoints on the pretzels. */
export function cocoDelivery(shots: readonly Shot[]): DemoFile[] {
  let id = 0;
  const annotations = shots.flatMap((shot, index) =>
    shot.annotated
      ? trueBreads(shot.scene).map((bread) => {
          const object = asObject(bread);
          return {
            id: ++id,
            image_id: 1000 + index * 7,
            category_id: breadKinds.indexOf(object.class as (typeof breadKinds)[number]) + 1,
            bbox: [bread.box.x, bread.box.y, bread.box.width, bread.box.height],
            area: shapeArea(object.shape),
            segmentation: bread.outline.length > 0 && !bread.keypoints ? [bread.outline] : [],
            iscrowd: 0,
            ...(bread.keypoints
              ? {
                  keypoints: bread.keypoints.flatMap((p) => [p.x, p.y, p.v]),
                  num_keypoints: bread.keypoints.filter((p) => p.v > 0).length,
                }
              : {}),
            attributes: object.attributes,
          };
        })
      : [],
  );
  const categories = breadKinds.map((name, position) => ({
    id: position + 1,
    name,
    supercategory: "bread",
    ...(name === "pretzel"
      ? {
          keypoints: pretzelKeypoints,
          skeleton: [
            [1, 3],
            [2, 3],
            [3, 4],
            [3, 5],
          ],
        }
      : {}),
  }));
  const images = shots.flatMap((shot, index) =>
    shot.annotated ? [{ id: 1000 + index * 7, ...frame, file_name: shot.name, index }] : [],
  );
  const sheet = (split: Split) => {
    const inSplit = images.filter((image) => splitOfShot(image.index) === split).map(({ index: _, ...image }) => image);
    const ids = new Set(inSplit.map((image) => image.id));
    const content = {
      info: { description: "Millrace Bakery, early shift" },
      images: inSplit,
      annotations: annotations.filter((entry) => ids.has(entry.image_id)),
      categories,
    };
    return text(`annotations/instances_${split}.json`, JSON.stringify(content));
  };
  return [
    ...shots.map((shot): DemoFile => ({ path: `images/${shot.name}`, bytes: () => shotBytes(shot) })),
    ...splitNames.map(sheet),
  ];
}

/** How a shift writes class names. */
type Spelling = (kind: string, shotIndex: number, nth: number) => string;
/** The late shift's own way, with a roll once taken for a loaf. */
const lateSpelling: Spelling = (kind, index, nth) =>
  kind === "croissant" ? "Croissant" : kind === "roll" && index === 12 && nth === 0 ? "loaf" : kind;
/** Somebody who stands in and knows no list: other words, other plurals, a slip of the pen. */
const standInSpelling: Spelling = (kind, index) =>
  kind === "roll"
    ? "bread roll"
    : kind === "croissant"
      ? index % 9 === 4
        ? "croisant"
        : "Croissant"
      : kind === "baguette"
        ? "Baguettes"
        : kind;

/** VOC, counted from 1, by a shift that writes its class names its own way. */
export function vocDelivery(shots: readonly Shot[], spelling: Spelling = lateSpelling): DemoFile[] {
  const sets = splitNames.map((split) =>
    text(
      `ImageSets/Main/${split}.txt`,
      shots
        .flatMap((shot, index) => (splitOfShot(index) === split ? [`${shot.name.replace(".jpg", "")}\n`] : []))
        .join(""),
    ),
  );
  const files = shots.flatMap((shot, index) => {
    const picture: DemoFile = { path: `JPEGImages/${shot.name}`, bytes: () => shotBytes(shot) };
    if (!shot.annotated) return [picture];
    const objects = trueBreads(shot.scene).map((bread, nth) => {
      const name = spelling(bread.kind, index, nth);
      const { x, y, width, height } = bread.box;
      const clamp = (value: number, high: number) => Math.min(high, Math.max(1, Math.round(value)));
      const [left, top] = [clamp(x + 1, frame.width), clamp(y + 1, frame.height)];
      const [right, bottom] = [clamp(x + width, frame.width), clamp(y + height, frame.height)];
      return [
        `  <object><name>${name}</name><pose>Unspecified</pose><truncated>0</truncated><difficult>0</difficult>`,
        `<bndbox><xmin>${left}</xmin><ymin>${top}</ymin><xmax>${right}</xmax><ymax>${bottom}</ymax></bndbox></object>`,
      ].join("");
    });
    const sheet = [
      '<?xml version="1.0" encoding="UTF-8"?>',
      "<annotation>",
      `  <folder>JPEGImages</folder><filename>${shot.name}</filename>`,
      `  <size><width>${frame.width}</width><height>${frame.height}</height><depth>3</depth></size>`,
      objects.join("\n"),
      "</annotation>",
      "",
    ].join("\n");
    return [picture, text(`Annotations/${shot.name.replace(".jpg", ".xml")}`, sheet)];
  });
  return [...files, ...sets];
}

/** YOLO text with a data.yaml; a few boxes reach past the edge, as the labeling crew drew them. */
export function yoloDelivery(shots: readonly Shot[]): DemoFile[] {
  const files = shots.flatMap((shot, index) => {
    const picture: DemoFile = { path: `images/${shot.name}`, bytes: () => shotBytes(shot) };
    if (!shot.annotated) return [picture];
    const lines = trueBreads(shot.scene).map((bread, nth) => {
      const grow = index % 15 === 3 && nth === 0 ? 14 : 0;
      const x = bread.box.x - grow;
      const y = bread.box.y - grow;
      const width = bread.box.width + 2 * grow;
      const height = bread.box.height + 2 * grow;
      const shares = [
        (x + width / 2) / frame.width,
        (y + height / 2) / frame.height,
        width / frame.width,
        height / frame.height,
      ];
      return `${breadKinds.indexOf(bread.kind as (typeof breadKinds)[number])} ${shares.map((share) => share.toFixed(8)).join(" ")}`;
    });
    return [picture, text(`labels/${shot.name.replace(".jpg", ".txt")}`, lines.map((line) => `${line}\n`).join(""))];
  });
  return [...files, text("data.yaml", `train: images\nnc: ${breadKinds.length}\nnames: [${breadKinds.join(", ")}]\n`)];
}

/** One picture, one class, by folder. */
export function basketDelivery(firstSeed: number, count: number): DemoFile[] {
  return Array.from({ length: count }, (_, i): DemoFile => {
    const proof = proofs[[0, 1, 1, 2, 1, 0, 1][i % 7] as number] ?? "ready";
    return {
      path: `${proof}/basket_${String(i + 1).padStart(3, "0")}.jpg`,
      bytes: () => renderBasket(proof, firstSeed + i),
    };
  });
}

export type DemoDelivery = {
  collection: string;
  name: string;
  fileName: string;
  files: DemoFile[];
  /** Read but not taken in yet, so that the intake sheet has something to show. */ waiting?: boolean;
};

/** Everything the demo holds; `share` below 1 makes all of it smaller in proportion. */
export function demoDeliveries(share = 1): DemoDelivery[] {
  const some = (count: number) => Math.max(6, Math.round(count * share));
  return [
    {
      collection: "Cooling racks",
      name: "Early shift",
      fileName: "early-shift.zip",
      files: cocoDelivery(makeShots("early", 1000, some(104))),
    },
    {
      collection: "Cooling racks",
      name: "Late shift",
      fileName: "late-shift.zip",
      files: vocDelivery(makeShots("late", 2000, some(88))),
    },
    {
      collection: "Cooling racks",
      name: "Weekend",
      fileName: "weekend.zip",
      files: yoloDelivery(makeShots("weekend", 3000, some(64))),
    },
    {
      collection: "Cooling racks",
      name: "Holiday stand-in",
      fileName: "holiday-stand-in.zip",
      files: vocDelivery(
        [
          ...clocked(makeShots("holiday", 4000, some(44)), new Date("2026-11-19T14:02:00Z")),
          ...makeShots("late", 2000, some(88))
            .filter((shot) => !shot.broken)
            .slice(0, 3),
        ],
        standInSpelling,
      ),
      waiting: true,
    },
    {
      collection: "Proving baskets",
      name: "October baskets",
      fileName: "baskets.zip",
      files: basketDelivery(7000, some(154)),
    },
  ];
}
