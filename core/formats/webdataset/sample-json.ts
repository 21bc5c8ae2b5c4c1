/** The `.json` of a sample: objects in pixels, image-level classes, captions and fields. */
import { z } from "zod";
import { shapeBounds } from "../../geometry/shape";
import type { Findings } from "../../model/finding";
import { attributeValueSchema, type Item, type LabeledObject } from "../../model/item";
import type { Shape } from "../../model/shape";
import { attributesOf, keypointsOf, maskOf } from "../coco/annotation-store";
import { segmentationOf } from "../coco/write";

const finite = z.number();
const objectSchema = z.object({
  class: z.union([z.string(), z.number()]),
  bbox: z.tuple([finite, finite, finite, finite]).optional().catch(undefined),
  segmentation: z.unknown().optional(),
  rotated: z.tuple([finite, finite, finite, finite, finite]).optional().catch(undefined),
  keypoints: z.array(z.number()).optional().catch(undefined),
  attributes: z.record(z.string(), attributeValueSchema).optional().catch(undefined),
  crowd: z.boolean().optional().catch(undefined),
  occluded: z.boolean().optional().catch(undefined),
  truncated: z.boolean().optional().catch(undefined),
  difficult: z.boolean().optional().catch(undefined),
  confidence: z.number().optional().catch(undefined),
});
export const sampleSchema = z.object({
  objects: z.array(z.unknown()).optional(),
  classes: z.array(z.string()).optional().catch(undefined),
  captions: z.array(z.string()).optional().catch(undefined),
  fields: z
    .record(z.string(), z.union([z.string(), z.array(z.string())]))
    .optional()
    .catch(undefined),
  width: z.number().positive().optional().catch(undefined),
  height: z.number().positive().optional().catch(undefined),
});

function polygonOf(segmentation: unknown): Shape | null {
  if (!Array.isArray(segmentation)) return null;
  const rings = segmentation.filter(
    (ring): ring is number[] =>
      Array.isArray(ring) &&
      ring.length >= 6 &&
      ring.length % 2 === 0 &&
      ring.every((value) => typeof value === "number"),
  );
  return rings.length > 0 ? { kind: "polygon", parts: rings.map((ring) => [ring]) } : null;
}

function shapeOf(className: z.infer<typeof objectSchema>): Shape | null {
  const box =
    className.bbox && className.bbox[2] > 0 && className.bbox[3] > 0
      ? { x: className.bbox[0], y: className.bbox[1], width: className.bbox[2], height: className.bbox[3] }
      : null;
  // A sample names no keypoints, so any number of them will do.
  const points = keypointsOf(className.keypoints, { keypoints: [] });
  if (points) return { kind: "keypoints", points, ...(box ? { box } : {}) };
  if (className.rotated) {
    const [cx, cy, width, height, angle] = className.rotated;
    return { kind: "rotated-box", cx, cy, width, height, angle };
  }
  return maskOf(className.segmentation) ?? polygonOf(className.segmentation) ?? (box ? { kind: "box", ...box } : null);
}

/**
 * Puts what a sample's JSON says onto its item; a class that is a number is the one `names` has there. Throws where it
 * is no such JSON.
 */
export function readSample(text: string, item: Item, report: Findings, names: readonly string[]): void {
  const sample = sampleSchema.parse(JSON.parse(text));
  if (sample.width && sample.height) item.declared = { width: sample.width, height: sample.height };
  if (sample.objects) item.state = sample.objects.length > 0 ? "labeled" : "empty";
  for (const entry of sample.objects ?? []) {
    const parsed = objectSchema.safeParse(entry);
    if (!parsed.success) {
      report.add("class-unknown", item.path, "an object without a class");
      continue;
    }
    const json = parsed.data.class;
    const name = typeof json === "string" ? json : names.length > 0 ? names[json] : `class_${json}`;
    if (name === undefined) {
      report.add("class-unknown", item.path, `class ${json} of ${names.length}`);
      continue;
    }
    const shape = shapeOf(parsed.data);
    if (!shape) {
      report.add("shape-degenerate", item.path, name);
      continue;
    }
    const object: LabeledObject = { class: name, shape };
    for (const flag of ["crowd", "occluded", "truncated", "difficult"] as const)
      if (parsed.data[flag]) object[flag] = true;
    if (parsed.data.confidence !== undefined) object.confidence = parsed.data.confidence;
    const attributes = attributesOf(parsed.data.attributes);
    if (attributes) object.attributes = attributes;
    item.objects.push(object);
  }
  item.classes.push(...(sample.classes ?? []));
  item.captions.push(...(sample.captions ?? []));
  Object.assign(item.fields, sample.fields ?? {});
}

function objectJson(object: LabeledObject): unknown {
  const { shape, ...json } = object;
  const bounds = shapeBounds(shape);
  return {
    ...json,
    bbox: bounds ? [bounds.x, bounds.y, bounds.width, bounds.height] : undefined,
    ...(shape.kind === "polygon" || shape.kind === "mask" ? { segmentation: segmentationOf(object) } : {}),
    ...(shape.kind === "rotated-box" ? { rotated: [shape.cx, shape.cy, shape.width, shape.height, shape.angle] } : {}),
    ...(shape.kind === "keypoints" ? { keypoints: shape.points.flatMap((p) => [p.x, p.y, p.v]) } : {}),
  };
}

/** A sample's JSON; null where everything it says stands in the other files, or nothing is said. */
export function sampleJson(item: Item, size: { width: number; height: number }): string | null {
  const json = {
    ...(item.state === "empty" || item.objects.length > 0 ? { objects: item.objects.map(objectJson) } : {}),
    ...(item.classes.length > 1 ? { classes: item.classes } : {}),
    ...(item.captions.length > 1 || item.captions.some((caption) => caption.trim() !== caption || caption === "")
      ? { captions: item.captions }
      : {}),
    ...(Object.keys(item.fields).length > 0 ? { fields: item.fields } : {}),
  };
  return Object.keys(json).length === 0 ? null : JSON.stringify({ ...json, ...size });
}
