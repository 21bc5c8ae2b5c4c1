/** Small pictures of what a version's classes look like, cut out of its own outputs. */
import { shapeBounds } from "@larder/core/geometry/shape";
import type { Box } from "@larder/core/model/shape";
import { renderKey, type ReadLine } from "@larder/core/versions/manifest";
import { z } from "zod";
import { blobs } from "../../blobs/store";
import type { versions } from "../../db/schema";
import { openImage } from "../../pixels/open";
import { readSource } from "../source-bytes";
import { manifestHeader, manifestLines } from "../../blobs/manifest-lines";

const picturesEach = 2;
/** Pictures of rare classes are looked for in so many outputs, of so many classes at most. */
const outputsSeen = 50_000;
const mostClasses = 60;
const edge = 112;
const leastSide = 8;
/** Of the surroundings, so much of the larger side is shown around an object. */
const margin = 0.15;

const picturesSchema = z.record(z.string(), z.array(z.string()));
type Pictures = Record<string, string[]>;

type Shown = { name: string; box: Box | null };

/** What of an output is shown for classes that are still without pictures: one object each, or the whole picture. */
function wanted({ objects, classes, size }: ReadLine, pictures: ReadonlyMap<string, string[]>): Shown[] {
  const open = (name: string) =>
    (pictures.get(name)?.length ?? 0) < picturesEach && (pictures.has(name) || pictures.size < mostClasses);
  const shown = new Map<string, Shown>();
  for (const { class: name, shape } of objects) {
    if (shown.has(name) || !open(name)) continue;
    const box = shapeBounds(shape);
    if (box && box.width >= leastSide && box.height >= leastSide && box.x < size.width && box.y < size.height)
      shown.set(name, { name, box });
  }
  for (const name of classes) if (!shown.has(name) && open(name)) shown.set(name, { name, box: null });
  return [...shown.values()];
}

async function cutOut(bytes: Uint8Array, box: Box | null, { width, height }: ReadLine["size"]): Promise<string> {
  let image = await openImage(bytes);
  if (box) {
    const around = margin * Math.max(box.width, box.height);
    const left = Math.max(0, Math.floor(box.x - around));
    const top = Math.max(0, Math.floor(box.y - around));
    const right = Math.min(width, Math.ceil(box.x + box.width + around));
    const bottom = Math.min(height, Math.ceil(box.y + box.height + around));
    image = image.extract({ left, top, width: Math.max(1, right - left), height: Math.max(1, bottom - top) });
  }
  const small = await image
    .resize(edge, edge, { fit: "inside", withoutEnlargement: true })
    .toColourspace("srgb")
    .flatten({ background: "#ffffff" })
    .jpeg({ quality: 80 })
    .toBuffer();
  return `data:image/jpeg;base64,${small.toString("base64")}`;
}

async function madeFrom(digest: string): Promise<Pictures> {
  const store = blobs();
  const { images } = await manifestHeader(await store.stream(digest));
  const pictures = new Map<string, string[]>();
  let seen = 0;
  for await (const line of manifestLines(await store.stream(digest))) {
    if (++seen > outputsSeen) break;
    const shown = wanted(line, pictures);
    if (shown.length === 0) continue;
    const bytes = await (line.made ? store.readDerived("renders", renderKey(line, images)) : readSource(line.source));
    // Decoded once for all that is cut out of it.
    const whole = shown.length > 1 ? await (await openImage(bytes)).png({ compressionLevel: 1 }).toBuffer() : bytes;
    for (const { name, box } of shown)
      pictures.set(name, [...(pictures.get(name) ?? []), await cutOut(whole, box, line.size)]);
  }
  return Object.fromEntries(pictures);
}

/**
 * Pictures of a frozen version's classes as addresses that hold them (data:), the same ones every time. None where they
 * were never made and its renderings are dropped, or its pictures cannot be had.
 */
export async function classPictures({
  digest,
  rendersDroppedAt,
}: Pick<typeof versions.$inferSelect, "digest" | "rendersDroppedAt">): Promise<Pictures> {
  if (digest === null) return {};
  const store = blobs();
  if ((await store.derivedSize("class-pictures", digest)) !== null) {
    const text = new TextDecoder().decode(await store.readDerived("class-pictures", digest));
    return picturesSchema.parse(JSON.parse(text));
  }
  if (rendersDroppedAt !== null) return {};
  const pictures = await madeFrom(digest);
  await store.putDerived("class-pictures", digest, new TextEncoder().encode(JSON.stringify(pictures)));
  return pictures;
}
