/**
 * Masks of single objects: `SegmentationObject/<stem>.png`, whose value n is the sheet's nth object; 0 is none, 255 is
 * ignored.
 */
import { boxIntersectionOverUnion } from "../../geometry/box";
import { runsBounds, runsOfValue } from "../../geometry/run-length";
import { shapeBounds } from "../../geometry/shape";
import { baseName, isImagePath, withoutExtension, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import type { LabeledObject, Size } from "../../model/item";
import { decodeMask, type MaskPixels } from "../masks/png";

/**
 * The share of a box and its mask's box that has to be common to both: masks leave out a border of ignored pixels, so
 * small ones are well inside their boxes.
 */
const leastOverlap = 0.3;

const segmentation = /(^|\/)Segmentation(Class|Object)\//;

/** True for files of the segmentation folders, which are pictures only by their names. */
export function isSegmentation(path: string): boolean {
  return segmentation.test(path);
}

export class ObjectMasks {
  private readonly byStem = new Map<string, string>();

  constructor(
    private readonly files: FileTree,
    paths: readonly string[],
    private readonly report: Findings,
  ) {
    const ofClasses: string[] = [];
    for (const path of paths) {
      if (!isImagePath(path)) continue;
      const folder = segmentation.exec(path)?.[2];
      if (folder === "Object") this.byStem.set(withoutExtension(baseName(path)), path);
      else if (folder === "Class") ofClasses.push(path);
    }
    // Which object a region belongs to masks of classes do not tell.
    for (const path of ofClasses)
      if (!this.byStem.has(withoutExtension(baseName(path)))) report.add("mask-unused", path, "a mask of classes");
  }

  private async pixelsOf(path: string): Promise<MaskPixels | null> {
    try {
      const pixels = decodeMask(await this.files.read(path));
      if (!pixels.coloured) return pixels;
      this.report.add("annotation-unreadable", path, "it holds colours in place of numbers");
    } catch (error) {
      this.report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
    }
    return null;
  }

  /**
   * The objects of a sheet with their masks in place of boxes. An object keeps its box where the mask does not hold its
   * number; one whose mask lies elsewhere, or is not of the `declared` size, keeps it too, and that is reported. `nths`
   * are the objects' numbers in the sheet, from 1.
   */
  async give(
    stem: string,
    objects: LabeledObject[],
    nths: readonly number[],
    declared: Size | undefined,
  ): Promise<LabeledObject[]> {
    const path = this.byStem.get(stem);
    const pixels = path === undefined || objects.length === 0 ? null : await this.pixelsOf(path);
    if (path === undefined || !pixels) return objects;
    const { values, width, height } = pixels;
    if (declared && (declared.width !== width || declared.height !== height)) {
      this.report.add(
        "mask-unused",
        path,
        `it is ${width} × ${height}, the picture ${declared.width} × ${declared.height}`,
      );
      return objects;
    }
    const present = new Set(values);
    return objects.map((object, n): LabeledObject => {
      const value = nths[n] as number;
      const box = shapeBounds(object.shape);
      if (!box || !present.has(value)) return object;
      const counts = runsOfValue(values, value, width, height);
      const around = runsBounds(counts, height);
      if (around && boxIntersectionOverUnion(box, around) >= leastOverlap)
        return { ...object, shape: { kind: "mask", width, height, counts } };
      this.report.add("mask-unused", path, `value ${value} does not lie on the box of object ${value}`);
      return object;
    });
  }
}
