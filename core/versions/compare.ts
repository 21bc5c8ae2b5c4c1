/** Two versions side by side: which images only one holds, which moved between splits, whose labels changed. */
import type { Split } from "../model/item";
import { sha256OfText } from "../model/sha256";
import { canonicalJson } from "./canonical-json";
import type { ReadLine } from "./manifest";

/** What a version says of one of its images, by its first output. */
export type HeldImage = { split: Split; name: string; objects: number; labels: string; frame: string };

/** The images of a version by the hash of their source, from its manifest's lines. */
export class HeldImages {
  readonly images = new Map<string, HeldImage>();
  readonly byClass = new Map<string, number>();

  add({ source, split, name, objects, classes, recipe }: ReadLine): void {
    for (const label of [...objects.map((object) => object.class), ...classes])
      this.byClass.set(label, (this.byClass.get(label) ?? 0) + 1);
    // Tiles and copies say the same of the image again.
    if (this.images.has(source)) return;
    const [part] = recipe.parts;
    this.images.set(source, {
      split,
      name,
      objects: objects.length,
      labels: sha256OfText(canonicalJson([[...objects.map(({ class: label, shape }) => [label, shape])], classes])),
      // Labels in pixels of different frames cannot be told to be the same.
      frame: canonicalJson([part?.matrix ?? null, recipe.warp, recipe.size]),
    });
  }
}

export type ComparedImage = { source: string; name: string };
export type ComparedGroup = { count: number; images: ComparedImage[] };
export type VersionComparison = {
  both: number;
  onlyFirst: ComparedGroup;
  onlySecond: ComparedGroup;
  moved: (ComparedGroup & { from: Split; to: Split })[];
  /** Of images in both whose pixels lie on the same frame. */
  relabeled: ComparedGroup;
  /** How many images in both lie on other frames, so that their labels are not compared. */
  reframed: number;
  classes: { name: string; first: number; second: number }[];
};

/** As many images of a group are named. */
const mostNamed = 48;

class Group {
  count = 0;
  readonly images: ComparedImage[] = [];

  add(source: string, name: string): void {
    this.count++;
    if (this.images.length < mostNamed) this.images.push({ source, name });
  }
}

export function compareVersions(first: HeldImages, second: HeldImages): VersionComparison {
  const [onlyFirst, onlySecond, relabeled] = [new Group(), new Group(), new Group()];
  const moved = new Map<string, Group & { from: Split; to: Split }>();
  let [both, reframed] = [0, 0];
  for (const [source, image] of first.images) {
    const other = second.images.get(source);
    if (!other) {
      onlyFirst.add(source, image.name);
      continue;
    }
    both++;
    if (image.split !== other.split) {
      const key = `${image.split} ${other.split}`;
      const group = moved.get(key) ?? Object.assign(new Group(), { from: image.split, to: other.split });
      moved.set(key, group);
      group.add(source, other.name);
    }
    if (image.frame !== other.frame) reframed++;
    else if (image.labels !== other.labels) relabeled.add(source, other.name);
  }
  for (const [source, image] of second.images) if (!first.images.has(source)) onlySecond.add(source, image.name);
  const names = [...new Set([...first.byClass.keys(), ...second.byClass.keys()])].sort();
  return {
    both,
    onlyFirst,
    onlySecond,
    moved: [...moved.values()],
    relabeled,
    reframed,
    classes: names.map((name) => ({
      name,
      first: first.byClass.get(name) ?? 0,
      second: second.byClass.get(name) ?? 0,
    })),
  };
}
