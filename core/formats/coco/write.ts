import { encodeCounts } from "../../geometry/run-length";
import { shapeArea, shapeBounds } from "../../geometry/shape";
import type { ClassInfo, LabeledObject, Licence, Split } from "../../model/item";
import type { Options, Outgoing, PackageSink } from "../format";
import { UniqueNames } from "../unique-names";

type SplitIndex = { images: string[]; annotations: string[]; captions: string[] };

/** What the JSON says of a region: polygons as flat rings, masks as compressed run-length; nothing for other shapes. */
export function segmentationOf({ shape }: LabeledObject): unknown {
  if (shape.kind === "mask") return { size: [shape.height, shape.width], counts: encodeCounts(shape.counts) };
  return shape.kind === "polygon" ? shape.parts.map((part) => part[0]) : [];
}

function annotationOf(object: LabeledObject, id: number, imageId: number, categoryId: number | string): string | null {
  const box = shapeBounds(object.shape);
  if (!box) return null;
  const keypoints = object.shape.kind === "keypoints" ? object.shape.points : null;
  return JSON.stringify({
    id,
    image_id: imageId,
    category_id: categoryId,
    bbox: [box.x, box.y, box.width, box.height],
    area: object.givenArea ?? shapeArea(object.shape),
    segmentation: segmentationOf(object),
    iscrowd: object.crowd ? 1 : 0,
    ...(keypoints
      ? { keypoints: keypoints.flatMap((p) => [p.x, p.y, p.v]), num_keypoints: keypoints.filter((p) => p.v > 0).length }
      : {}),
    ...(object.attributes ? { attributes: object.attributes } : {}),
    ...(object.occluded ? { occluded: true } : {}),
    ...(object.truncated ? { truncated: true } : {}),
    ...(object.difficult ? { difficult: true } : {}),
    ...(object.confidence !== undefined ? { score: object.confidence } : {}),
  });
}

/** The id of each class: counted from 1, or, where that is asked for, the ones they came with, newcomers after them. */
function categoryIdsOf(classes: readonly ClassInfo[], options: Options): Map<string, number | string> {
  const ids = new Map<string, number | string>();
  const taken = new Set<string>();
  if (options["ids"] === "source")
    for (const { name, sourceId } of classes)
      if (sourceId !== undefined && !taken.has(sourceId)) {
        taken.add(sourceId);
        ids.set(name, /^(0|[1-9]\d{0,14})$/.test(sourceId) ? Number(sourceId) : sourceId);
      }
  let next = 1;
  for (const { name } of classes) {
    if (ids.has(name)) continue;
    while (taken.has(String(next))) next++;
    taken.add(String(next));
    ids.set(name, next);
  }
  return ids;
}

function categoriesOf(classes: readonly ClassInfo[], ids: ReadonlyMap<string, number | string>): string {
  return JSON.stringify(
    classes.map((info) => ({
      id: ids.get(info.name),
      name: info.name,
      supercategory: info.supercategory ?? "",
      ...(info.keypoints ? { keypoints: info.keypoints, skeleton: info.skeleton ?? [] } : {}),
    })),
  );
}

/** Licences by number from 1, in the order they came. */
class Licences {
  private readonly numbers = new Map<string, number>();

  numberOf({ name, url }: Licence): number {
    const key = JSON.stringify(url ? { name, url } : { name });
    const known = this.numbers.get(key) ?? this.numbers.size + 1;
    this.numbers.set(key, known);
    return known;
  }

  json(): string {
    return `[${[...this.numbers].map(([key, id]) => `{"id":${id},${key.slice(1)}`).join(",")}]`;
  }
}

async function* jsonFile(
  title: string,
  index: SplitIndex,
  annotations: string[],
  licences: Licences,
  categories: string | null,
): AsyncIterable<Uint8Array> {
  const encoder = new TextEncoder();
  const listed = function* (rows: string[]) {
    for (let i = 0; i < rows.length; i += 1000)
      yield encoder.encode((i === 0 ? "" : ",\n") + rows.slice(i, i + 1000).join(",\n"));
  };
  yield encoder.encode(`{"info":${JSON.stringify({ description: title })},"licenses":${licences.json()},\n"images":[`);
  yield* listed(index.images);
  yield encoder.encode(`],\n"annotations":[`);
  yield* listed(annotations);
  yield encoder.encode(categories === null ? "]}\n" : `],\n"categories":${categories}}\n`);
}

/**
 * Writes `annotations/instances_<split>.json` (and `captions_<split>.json`) with images in `images/<split>/`; images
 * without a split go to `images/` and `instances.json`.
 */
export async function writeCoco(outgoing: Outgoing, sink: PackageSink, options: Options): Promise<void> {
  const names = new UniqueNames();
  const categoryIds = categoryIdsOf(outgoing.classes, options);
  const licences = new Licences();
  const splits = new Map<Split | "", SplitIndex>();
  let imageId = 0;
  let annotationId = 0;
  for await (const item of outgoing.items) {
    imageId++;
    const split = item.split ?? "";
    const fileName = options["names"] === "path" ? names.claimPath(split, item.path) : names.claim(split, item.path);
    await sink.picture(`images/${split ? `${split}/` : ""}${fileName}`, item);
    const index = splits.get(split) ?? { images: [], annotations: [], captions: [] };
    splits.set(split, index);
    // An unlabeled image goes along without being listed, so that reading tells it from an empty one.
    if (item.state === "unlabeled") continue;
    index.images.push(
      JSON.stringify({
        id: imageId,
        width: item.size.width,
        height: item.size.height,
        file_name: fileName,
        ...(item.licence ? { license: licences.numberOf(item.licence) } : {}),
      }),
    );
    for (const object of item.objects) {
      const line = annotationOf(object, annotationId + 1, imageId, categoryIds.get(object.class) ?? 0);
      if (!line) continue;
      annotationId++;
      index.annotations.push(line);
    }
    for (const caption of item.captions)
      index.captions.push(JSON.stringify({ id: ++annotationId, image_id: imageId, caption }));
  }
  if (splits.size === 0) splits.set("", { images: [], annotations: [], captions: [] });
  for (const [split, index] of splits) {
    const suffix = split ? `_${split}` : "";
    await sink.write(
      `annotations/instances${suffix}.json`,
      jsonFile(outgoing.title, index, index.annotations, licences, categoriesOf(outgoing.classes, categoryIds)),
    );
    if (index.captions.length > 0)
      await sink.write(
        `annotations/captions${suffix}.json`,
        jsonFile(outgoing.title, index, index.captions, licences, null),
      );
  }
  await sink.write("README.txt", readme(outgoing, [...splits.keys()]));
}

function readme(outgoing: Outgoing, splits: string[]): string {
  return [
    outgoing.title,
    "",
    "COCO JSON: one annotation file a split, coordinates in pixels from the top left corner of the upright image.",
    ...splits.map((split) => `  annotations/instances${split ? `_${split}` : ""}.json describes images/${split}`),
    "",
    "Point a loader at an annotation file and at the image folder beside its name; nothing needs editing.",
    ...outgoing.notes,
    "",
  ].join("\n");
}
