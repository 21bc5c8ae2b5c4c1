import { encodeCounts } from "../../geometry/run-length";
import { shapeArea, shapeBounds } from "../../geometry/shape";
import type { ClassInfo, LabeledObject, Split } from "../../model/item";
import type { Outgoing, PackageSink } from "../format";
import { UniqueNames } from "../unique-names";

type SplitIndex = { images: string[]; annotations: string[]; captions: string[] };

/** What the JSON says of a region: polygons as flat rings, masks as compressed run-length; nothing for other shapes. */
export function segmentationOf({ shape }: LabeledObject): unknown {
  if (shape.kind === "mask") return { size: [shape.height, shape.width], counts: encodeCounts(shape.counts) };
  return shape.kind === "polygon" ? shape.parts.map((part) => part[0]) : [];
}

function annotationOf(object: LabeledObject, id: number, imageId: number, categoryId: number): string | null {
  const box = shapeBounds(object.shape);
  if (!box) return null;
  const keypoints = object.shape.kind === "keypoints" ? object.shape.points : null;
  return JSON.stringify({
    id,
    image_id: imageId,
    category_id: categoryId,
    bbox: [box.x, box.y, box.width, box.height],
    area: shapeArea(object.shape),
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

function categoriesOf(classes: readonly ClassInfo[]): string {
  return JSON.stringify(
    classes.map((info, position) => ({
      id: position + 1,
      name: info.name,
      supercategory: "",
      ...(info.keypoints ? { keypoints: info.keypoints, skeleton: info.skeleton ?? [] } : {}),
    })),
  );
}

async function* jsonFile(
  title: string,
  index: SplitIndex,
  annotations: string[],
  classes: readonly ClassInfo[] | null,
): AsyncIterable<Uint8Array> {
  const encoder = new TextEncoder();
  const listed = function* (rows: string[]) {
    for (let i = 0; i < rows.length; i += 1000)
      yield encoder.encode((i === 0 ? "" : ",\n") + rows.slice(i, i + 1000).join(",\n"));
  };
  yield encoder.encode(`{"info":${JSON.stringify({ description: title })},"licenses":[],\n"images":[`);
  yield* listed(index.images);
  yield encoder.encode(`],\n"annotations":[`);
  yield* listed(annotations);
  yield encoder.encode(classes ? `],\n"categories":${categoriesOf(classes)}}\n` : "]}\n");
}

/**
 * Writes `annotations/instances_<split>.json` (and `captions_<split>.json`) with images in `images/<split>/`; images
 * without a split go to `images/` and `instances.json`.
 */
export async function writeCoco(outgoing: Outgoing, sink: PackageSink): Promise<void> {
  const names = new UniqueNames();
  const categoryIds = new Map(outgoing.classes.map((info, position) => [info.name, position + 1]));
  const splits = new Map<Split | "", SplitIndex>();
  let imageId = 0;
  let annotationId = 0;
  for await (const item of outgoing.items) {
    imageId++;
    const split = item.split ?? "";
    const fileName = names.claim(split, item.path);
    await sink.picture(`images/${split ? `${split}/` : ""}${fileName}`, item);
    const index = splits.get(split) ?? { images: [], annotations: [], captions: [] };
    splits.set(split, index);
    // An unlabeled image goes along without being listed, so that reading tells it from an empty one.
    if (item.state === "unlabeled") continue;
    index.images.push(
      JSON.stringify({ id: imageId, width: item.size.width, height: item.size.height, file_name: fileName }),
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
      jsonFile(outgoing.title, index, index.annotations, outgoing.classes),
    );
    if (index.captions.length > 0)
      await sink.write(`annotations/captions${suffix}.json`, jsonFile(outgoing.title, index, index.captions, null));
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
