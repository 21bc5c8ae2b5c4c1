import { Failure } from "../model/failure";
import { classFolders } from "./class-folders/index";
import { coco } from "./coco/index";
import type { Format } from "./format";
import { imagesOnly } from "./images-only";
import { voc } from "./voc/index";
import { yolo } from "./yolo/index";

/** Every format Larder knows; a new one is added here and nowhere else. */
export const formats: readonly Format[] = [coco, voc, yolo, classFolders, imagesOnly];

/** The formats a package can be written in. */
export const packageFormats: readonly string[] = formats.filter((format) => format.write).map((format) => format.name);

export function formatNamed(name: string): Format {
  const format = formats.find((candidate) => candidate.name === name);
  if (!format) throw new Failure("format-unknown", `There is no format called "${name}". The formats are ${formats.map((known) => known.name).join(", ")}.`);
  return format;
}
