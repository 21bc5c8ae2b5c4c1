import { connectedRegions } from "../../geometry/regions";
import { runsOfValue } from "../../geometry/run-length";
import { baseName, extensionOf, isImagePath, withoutExtension, type FileTree } from "../../model/file-tree";
import type { Findings } from "../../model/finding";
import { blankItem, type Item, type LabeledObject } from "../../model/item";
import { splitFromPath } from "../../model/split-name";
import { csvRows } from "../csv/table";
import type { Options, Reading } from "../format";
import { decodeMask, type MaskPixels } from "./png";

/** The class table: names by value, and by colour where it has them. */
type Classes = { byValue: Map<number, string>; byColour: Map<number, string>; names: string[]; listed: boolean };

export function isMaskPath(path: string): boolean {
  return (
    path
      .split("/")
      .slice(0, -1)
      .some((part) => part.toLowerCase() === "masks") && isImagePath(path)
  );
}

/** Masks that go with `images/x/a.jpg`: the same base name under `masks/x`. */
export function maskPathOf(image: string, masks: ReadonlyMap<string, string>): string | undefined {
  const parts = withoutExtension(image).split("/");
  const last = parts.lastIndexOf("images");
  if (last >= 0) parts[last] = "masks";
  return masks.get(parts.join("/"));
}

async function readClasses(files: FileTree, path: string, classes: Classes, report: Findings): Promise<void> {
  let header: string[] | null = null;
  for await (const row of csvRows(files, path)) {
    if (!header) {
      header = row.map((cell) => cell.toLowerCase());
      if (header.includes("name")) continue;
      header = row.length >= 4 ? ["name", "r", "g", "b"] : ["value", "name"];
    }
    const cell = (name: string) => row[header?.indexOf(name) ?? -1] ?? "";
    const name = cell("name");
    const value = cell("value") === "" ? classes.names.length : Number(cell("value"));
    if (name === "" || !Number.isInteger(value)) {
      report.add("annotation-unreadable", path, `a row without a name or value: ${row.join(",").slice(0, 40)}`);
      continue;
    }
    classes.listed = true;
    const colour = ["r", "g", "b"].map((channel) => (cell(channel) === "" ? NaN : Number(cell(channel)))) as [
      number,
      number,
      number,
    ];
    const packed = colour.every(Number.isInteger) ? (colour[0] << 16) | (colour[1] << 8) | colour[2] : null;
    if (packed !== null) classes.byColour.set(packed, name);
    // Value 0 is background and 255 is ignored, whatever the table calls them; a table of colours alone has no values.
    if (header.includes("value")) {
      if (value === 0 || value === 255) {
        if (packed !== null) classes.byColour.set(packed, "");
        continue;
      }
      classes.byValue.set(value, name);
    } else if (packed === 0 || /^(background|void|ignore)$/i.test(name)) {
      if (packed !== null) classes.byColour.set(packed, "");
      continue;
    }
    if (!classes.names.includes(name)) classes.names.push(name);
  }
}

/** `objects.csv`: for each mask file's base name, the class of each value. */
async function readInstances(files: FileTree, path: string): Promise<Map<string, Map<number, string>>> {
  const byImage = new Map<string, Map<number, string>>();
  let first = true;
  for await (const [image = "", value = "", name = ""] of csvRows(files, path)) {
    if (first && !/^\d+$/.test(value)) {
      first = false;
      continue;
    }
    first = false;
    const key = withoutExtension(image.replaceAll("\\", "/"));
    const classes = byImage.get(key) ?? new Map<number, string>();
    byImage.set(key, classes);
    classes.set(Number(value), name);
  }
  return byImage;
}

const ignored = new Set([0, 255]);

/** A mask's values as small numbers whose classes `names` gives; 0 is what makes no object. */
function classify(
  pixels: MaskPixels,
  nameOf: (value: number) => string | null | undefined,
): { map: Uint16Array; names: string[]; unknown: number[] } {
  const numbers = new Map<number, number>();
  const names = [""];
  const unknown: number[] = [];
  const map = new Uint16Array(pixels.values.length);
  let [lastValue, lastNumber] = [-1, 0];
  for (let i = 0; i < map.length; i++) {
    const value = pixels.values[i] as number;
    if (value !== lastValue) {
      let number = numbers.get(value);
      if (number === undefined) {
        const name = nameOf(value);
        if (name === undefined) unknown.push(value);
        number = name ? names.push(name) - 1 : 0;
        numbers.set(value, number);
      }
      [lastValue, lastNumber] = [value, number];
    }
    map[i] = lastNumber;
  }
  return { map, names, unknown };
}

function objectsOf(
  map: Uint16Array,
  names: readonly string[],
  { width, height }: MaskPixels,
  whole: boolean,
): LabeledObject[] {
  const regions = connectedRegions(map, width, height, new Set([0]));
  if (!whole)
    return regions.map(({ value, counts }) => ({
      class: names[value] as string,
      shape: { kind: "mask", width, height, counts },
    }));
  // One object a value: runs of its regions are laid over each other.
  return names.flatMap((name, number): LabeledObject[] => {
    const counts = number === 0 ? [] : runsOfValue(map, number, width, height);
    return counts.length > 1 ? [{ class: name, shape: { kind: "mask", width, height, counts } }] : [];
  });
}

/**
 * Reads images and their masks. Each connected region is an object; with `regions=class`, or an `objects.csv`, each
 * value is.
 */
export async function readMasks(files: FileTree, options: Options, report: Findings): Promise<Reading> {
  const paths = (await files.entries()).map((entry) => entry.path);
  const masks = new Map(paths.filter(isMaskPath).map((path) => [withoutExtension(path), path]));
  const images = paths.filter((path) => isImagePath(path) && !isMaskPath(path));
  const classes: Classes = { byValue: new Map(), byColour: new Map(), names: [], listed: false };
  let instances: Map<string, Map<number, string>> | null = null;
  for (const path of paths.filter((candidate) => /(^|\/)(classes|objects)\.csv$/i.test(candidate))) {
    try {
      if (/classes\.csv$/i.test(path)) await readClasses(files, path, classes, report);
      else instances = await readInstances(files, path);
    } catch (error) {
      report.add("annotation-unreadable", path, String((error as Error).message).slice(0, 80));
    }
  }
  const madeUp = !classes.listed && !instances;
  const used = new Set(images.map((path) => maskPathOf(path, masks)));
  for (const path of masks.values()) if (!used.has(path)) report.add("image-missing", path, "no picture of that name");

  async function pixelsOf(path: string): Promise<MaskPixels | null> {
    try {
      return decodeMask(await files.read(path));
    } catch (error) {
      report.add(
        "annotation-unreadable",
        path,
        `${extensionOf(path) === "png" ? "" : "a mask has to be a PNG, this is not exact: "}${String((error as Error).message).slice(0, 80)}`,
      );
      return null;
    }
  }
  // Without a class table the names depend on the highest value, so the masks are looked through once before.
  if (madeUp) {
    const found = new Set<number>();
    for (const path of used) {
      const pixels = path === undefined ? null : await pixelsOf(path);
      if (pixels && !pixels.coloured) for (const value of new Set(pixels.values)) found.add(value);
    }
    for (const value of [...found].sort((a, b) => a - b))
      if (!ignored.has(value)) classes.byValue.set(value, `class_${value}`);
    classes.names = [...classes.byValue.values()];
    if (classes.names.length > 0)
      report.add("classes-missing", "", `${classes.names[0]} … ${classes.names[classes.names.length - 1]}`);
  }
  if (instances)
    for (const classNames of instances.values())
      for (const name of classNames.values()) if (!classes.names.includes(name)) classes.names.push(name);

  async function itemOf(path: string): Promise<Item> {
    const item: Item = { ...blankItem(path), split: splitFromPath(path) };
    const mask = maskPathOf(path, masks);
    const pixels = mask === undefined ? null : await pixelsOf(mask);
    if (mask === undefined || !pixels) return item;
    const stem = withoutExtension(mask).replace(/^.*?(^|\/)masks\//, "");
    const classNames = instances?.get(stem) ?? instances?.get(baseName(stem));
    const nameOf = (value: number): string | null | undefined => {
      if (pixels.coloured) return classes.byColour.get(value) ?? (value === 0 ? null : undefined);
      return ignored.has(value) ? null : instances ? classNames?.get(value) : classes.byValue.get(value);
    };
    const { map, names, unknown } = classify(pixels, nameOf);
    for (const value of unknown)
      report.add(
        "class-unknown",
        mask,
        pixels.coloured ? `colour ${[value >> 16, (value >> 8) & 255, value & 255].join(" ")}` : `value ${value}`,
      );
    item.declared = { width: pixels.width, height: pixels.height };
    item.objects = objectsOf(map, names, pixels, instances !== null || options["regions"] === "class");
    item.state = item.objects.length > 0 || unknown.length > 0 ? "labeled" : "empty";
    return item;
  }
  async function* items(): AsyncIterable<Item> {
    for (const path of images) yield await itemOf(path);
  }
  return { classes: classes.names.map((name) => ({ name })), items: items() };
}
