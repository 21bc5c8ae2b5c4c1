/** Objects onto a map of values, later ones over earlier ones, and what that costs. */
import { paintPolygon } from "../../geometry/rasterise";
import { connectedRegions } from "../../geometry/regions";
import { runsFromBitmap } from "../../geometry/run-length";
import { shapeBounds } from "../../geometry/shape";
import type { Findings } from "../../model/finding";
import type { LabeledObject } from "../../model/item";
import type { SizedItem } from "../format";

/** Calls `each` with the row-major index of every pixel that a mask or polygon covers. */
function eachPixel({ shape }: LabeledObject, width: number, height: number, each: (at: number) => void): void {
  const bounds = shapeBounds(shape);
  if (!bounds || (shape.kind !== "polygon" && shape.kind !== "mask")) return;
  // Only the pixels around the shape are looked at: an image of many megapixels holds many small objects.
  const [left, top] = [Math.max(0, Math.floor(bounds.x)), Math.max(0, Math.floor(bounds.y))];
  const [right, bottom] = [
    Math.min(width, Math.ceil(bounds.x + bounds.width)),
    Math.min(height, Math.ceil(bounds.y + bounds.height)),
  ];
  const [columns, rows] = [right - left, bottom - top];
  if (columns <= 0 || rows <= 0) return;
  if (shape.kind === "polygon") {
    const bits = new Uint8Array(columns * rows);
    const moved = shape.parts.map((part) =>
      part.map((ring) => ring.map((value, i) => value - (i % 2 === 0 ? left : top))),
    );
    paintPolygon(bits, moved, columns, rows);
    for (let y = 0; y < rows; y++)
      for (let x = 0; x < columns; x++) if (bits[y * columns + x]) each((y + top) * width + x + left);
    return;
  }
  let position = 0;
  shape.counts.forEach((run, i) => {
    if (i % 2 === 1) {
      for (let p = position; p < position + run; p++) {
        const [x, y] = [Math.floor(p / shape.height), p % shape.height];
        if (x < width && y < height) each(y * width + x);
      }
    }
    position += run;
  });
}

/** Paints one mask or polygon with a value into a row-major map. */
export function paintObject(
  map: Uint16Array,
  object: LabeledObject,
  width: number,
  height: number,
  value: number,
): void {
  eachPixel(object, width, height, (at) => (map[at] = value));
}

/** Number n (from 0) of a class or object as a pixel value: 0 is background and 255 is ignored. */
export function valueOf(n: number): number {
  return n + 1 < 255 ? n + 1 : n + 2;
}

const background = new Set([0]);

/**
 * What reading gives back of an image once its objects are painted: regions of one class, or objects less what covers
 * them.
 */
export function paintedItem(item: SizedItem, instances: boolean, report: Findings): SizedItem {
  const { width, height } = item.size;
  if (item.objects.length === 0) return item;
  const owners = new Uint16Array(width * height);
  const areas = item.objects.map((object, n) => {
    let area = 0;
    eachPixel(object, width, height, (at) => {
      area++;
      owners[at] = n + 1;
    });
    return area;
  });
  const left = areas.map(() => 0);
  for (const owner of owners) if (owner > 0) left[owner - 1] = (left[owner - 1] as number) + 1;
  item.objects.forEach((object, n) => {
    if (left[n] === 0)
      report.add(
        "loss-object",
        item.path,
        areas[n] === 0 ? `${object.class} covers no pixel's centre` : `${object.class} lies under others`,
      );
    else if ((left[n] as number) < (areas[n] as number))
      report.add("loss-mask", item.path, `${object.class} is partly covered`);
  });
  if (instances) {
    const objects = item.objects.flatMap((object, n) => {
      if (left[n] === 0) return [];
      const bits = Uint8Array.from(owners, (owner) => (owner === n + 1 ? 1 : 0));
      return [
        {
          class: object.class,
          shape: { kind: "mask" as const, width, height, counts: runsFromBitmap(bits, width, height) },
        },
      ];
    });
    return { ...item, objects };
  }
  const names = [...new Set(item.objects.map((object) => object.class))];
  const classOf = [0, ...item.objects.map((object) => names.indexOf(object.class) + 1)];
  const regions = connectedRegions(
    Uint16Array.from(owners, (owner) => classOf[owner] as number),
    width,
    height,
    background,
  );
  const seen = item.objects.map(() => 0);
  for (const { counts } of regions) {
    const inside = ownersWithin(counts, owners, width, height);
    for (const owner of inside) seen[owner - 1] = (seen[owner - 1] as number) + 1;
    if (inside.size > 1)
      report.add("loss-object", item.path, "touches another of its class; they become one region", inside.size - 1);
  }
  item.objects.forEach((object, n) => {
    if ((seen[n] as number) > 1) report.add("loss-mask", item.path, `${object.class} falls into ${seen[n]} regions`);
  });
  return {
    ...item,
    objects: regions.map(({ value, counts }) => ({
      class: names[value - 1] as string,
      shape: { kind: "mask", width, height, counts },
    })),
  };
}

function ownersWithin(counts: readonly number[], owners: Uint16Array, width: number, height: number): Set<number> {
  const found = new Set<number>();
  let position = 0;
  counts.forEach((run, i) => {
    if (i % 2 === 1)
      for (let p = position; p < position + run; p++)
        found.add(owners[(p % height) * width + Math.floor(p / height)] as number);
    position += run;
  });
  return found;
}
