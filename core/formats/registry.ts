import { Failure } from "../model/failure";
import { classFolders } from "./class-folders/index";
import { coco } from "./coco/index";
import { csvBoxes } from "./csv/boxes";
import { csvLabels } from "./csv/labels";
import type { Format } from "./format";
import { imageList } from "./image-list/index";
import { imagesOnly } from "./images-only";
import { jsonl } from "./jsonl/index";
import { kitti } from "./kitti/index";
import { masks } from "./masks/index";
import { openImages } from "./open-images/index";
import { parquet } from "./parquet/index";
import { tfrecord } from "./tfrecord/index";
import { voc } from "./voc/index";
import { webdataset } from "./webdataset/index";
import { yolo, yoloObb, yoloPose, yoloSeg } from "./yolo/index";

/** Every format Larder knows; a new one is added here and nowhere else. */
export const formats: readonly Format[] = [
  coco,
  voc,
  yolo,
  yoloSeg,
  yoloPose,
  yoloObb,
  classFolders,
  csvBoxes,
  csvLabels,
  openImages,
  kitti,
  masks,
  tfrecord,
  webdataset,
  imageList,
  jsonl,
  parquet,
  imagesOnly,
];

/** The formats a package can be written in. */
export const packageFormats: readonly string[] = formats.filter((format) => format.write).map((format) => format.name);

export function formatNamed(name: string): Format {
  const format = formats.find((candidate) => candidate.name === name);
  if (!format)
    throw new Failure(
      "format-unknown",
      `There is no format called "${name}". The formats are ${packageFormats.join(", ")}.`,
    );
  return format;
}
