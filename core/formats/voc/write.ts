import { XMLBuilder } from "fast-xml-parser";
import { shapeBounds } from "../../geometry/shape";
import { withoutExtension } from "../../model/file-tree";
import { splitNames, type LabeledObject, type Size, type Split } from "../../model/item";
import type { Options, Outgoing, OutgoingItem, PackageSink } from "../format";
import { UniqueNames } from "../unique-names";

const builder = new XMLBuilder({ format: true, indentBy: "\t", suppressEmptyNode: false });

/**
 * Integer edges inside the image, never empty: `origin` 1 counts from one with inclusive far edges, 0 from zero with
 * exclusive ones.
 */
export function integerEdges(
  shape: LabeledObject["shape"],
  size: Size,
  origin: 0 | 1,
): { xmin: number; ymin: number; xmax: number; ymax: number } | null {
  const box = shapeBounds(shape);
  if (!box) return null;
  const span = (from: number, length: number, limit: number): [number, number] => {
    const low = Math.min(Math.max(Math.round(from), 0), limit - 1);
    return [low + origin, Math.min(Math.max(Math.round(from + length), low + 1), limit)];
  };
  const [xmin, xmax] = span(box.x, box.width, size.width);
  const [ymin, ymax] = span(box.y, box.height, size.height);
  return { xmin, ymin, xmax, ymax };
}

function sheetOf(item: OutgoingItem, fileName: string, origin: 0 | 1): string {
  const object = item.objects.flatMap((labeled) => {
    const bndbox = integerEdges(labeled.shape, item.size, origin);
    const pose = labeled.attributes?.["pose"];
    if (!bndbox) return [];
    return [
      {
        name: labeled.class,
        pose: typeof pose === "string" ? pose : "Unspecified",
        truncated: labeled.truncated ? 1 : 0,
        difficult: labeled.difficult ? 1 : 0,
        ...(labeled.occluded ? { occluded: 1 } : {}),
        bndbox,
      },
    ];
  });
  return builder.build({
    annotation: { folder: "JPEGImages", filename: fileName, size: { ...item.size, depth: 3 }, segmented: 0, object },
  });
}

/** Writes JPEGImages, Annotations and ImageSets/Main; images without a split stand in no set. */
export async function writeVoc(outgoing: Outgoing, sink: PackageSink, options: Options): Promise<void> {
  const names = new UniqueNames();
  const origin = options["write-origin"] === "zero" ? 0 : 1;
  const sets = new Map<Split, string[]>();
  for await (const item of outgoing.items) {
    const fileName = names.claim("", item.path);
    const stem = withoutExtension(fileName);
    if (item.split) {
      const set = sets.get(item.split) ?? [];
      sets.set(item.split, set);
      set.push(stem);
    }
    await sink.picture(`JPEGImages/${fileName}`, item);
    // An unlabeled image gets no XML, an empty one an XML without an object.
    if (item.state !== "unlabeled") await sink.write(`Annotations/${stem}.xml`, sheetOf(item, fileName, origin));
  }
  for (const split of splitNames) {
    const stems = sets.get(split);
    if (stems) await sink.write(`ImageSets/Main/${split}.txt`, stems.map((stem) => `${stem}\n`).join(""));
  }
  await sink.write(
    "README.txt",
    [
      outgoing.title,
      "",
      "One XML a picture in Annotations/, the pictures in JPEGImages/, the splits as lists of names in ImageSets/Main/.",
      origin === 1
        ? "Pixels count from 1, as published; xmax and ymax belong to the box."
        : "Pixels count from 0; xmax and ymax lie just past the box.",
      "A picture with an XML without objects holds nothing; one with no XML is unlabeled.",
      ...outgoing.notes,
      "",
    ].join("\n"),
  );
}
