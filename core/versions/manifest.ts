/**
 * A version's manifest: a header line, then one canonical JSON line an output image, ordered by source hash, tile and
 * copy. Its digest is the SHA-256 of those lines, each ended by a newline.
 */
import { z } from "zod";
import { recipeSchema } from "../imaging/recipe";
import { labeledObjectSchema, labelStates, licenceSchema, splitSchema } from "../model/item";
import { hexOf, incrementalSha256, sha256OfText } from "../model/sha256";
import { canonicalJson } from "./canonical-json";
import { manifestClassSchema } from "./manifest-class";
import { firstHeaderSchema, firstLineSchema, recipeOfFirst, type FirstTransform } from "./first-manifest";

const sizeSchema = z.object({ width: z.number().int().positive(), height: z.number().int().positive() });

/** How outputs are encoded where their bytes cannot stay. */
const imagesSchema = z.object({ as: z.enum(["same", "jpg", "png", "webp"]), quality: z.number().int() });

export const manifestHeaderSchema = z.object({
  larder: z.literal("manifest 2"),
  classes: z.array(manifestClassSchema),
  images: imagesSchema,
});
export type ManifestHeader = z.infer<typeof manifestHeaderSchema>;

export const manifestLineSchema = z.object({
  source: z.string().regex(/^[0-9a-f]{64}$/),
  copy: z.number().int().nonnegative(),
  /** Row and column of the tile. */
  tile: z.tuple([z.number().int().nonnegative(), z.number().int().nonnegative()]).optional(),
  name: z.string(),
  split: splitSchema,
  state: z.enum(labelStates),
  size: sizeSchema,
  /** False where the source's own bytes are the output. */
  made: z.boolean(),
  recipe: recipeSchema,
  objects: z.array(labeledObjectSchema),
  classes: z.array(z.string()),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  licence: licenceSchema.optional(),
});
export type ManifestLine = z.infer<typeof manifestLineSchema>;
/** A line of a manifest of any number; `transform` is set on those of the first, whose renderings it names. */
export type ReadLine = ManifestLine & { transform?: FirstTransform };

type Ordered = Pick<ManifestLine, "source" | "copy" | "tile">;

/** The order of a manifest's lines. */
export function compareLines(a: Ordered, b: Ordered): number {
  if (a.source !== b.source) return a.source < b.source ? -1 : 1;
  const [[rowA, columnA], [rowB, columnB]] = [a.tile ?? [0, 0], b.tile ?? [0, 0]];
  return rowA - rowB || columnA - columnB || a.copy - b.copy;
}

/** Takes lines in their order, one at a time, and says the digest at the end. */
export class ManifestDigest {
  private readonly hash = incrementalSha256();
  private last: Ordered | null = null;

  constructor(header: ManifestHeader) {
    this.hash.update(new TextEncoder().encode(`${canonicalJson(header)}\n`));
  }

  /** Adds one line and returns its text. Throws where it is out of order or there twice. */
  add(line: ManifestLine): string {
    if (this.last && compareLines(this.last, line) >= 0)
      throw new Error(`manifest line out of order: ${line.source} ${line.copy}`);
    const { source, copy, tile } = line;
    this.last = { source, copy, tile };
    const text = canonicalJson(line);
    this.hash.update(new TextEncoder().encode(`${text}\n`));
    return text;
  }

  hex(): string {
    return hexOf(this.hash.digest());
  }
}

/** The digest of lines in any order. */
export function manifestDigest(header: ManifestHeader, lines: readonly ManifestLine[]): string {
  const digest = new ManifestDigest(header);
  for (const line of [...lines].sort(compareLines)) digest.add(line);
  return digest.hex();
}

/** Reads the first line of a manifest of any number; the first knew no encoding but its own. */
export function readHeader(text: string): ManifestHeader {
  const value: unknown = JSON.parse(text);
  const first = firstHeaderSchema.safeParse(value);
  return first.success
    ? { larder: "manifest 2", classes: first.data.classes, images: { as: "same", quality: 95 } }
    : manifestHeaderSchema.parse(value);
}

/** Reads a further line of a manifest of any number. */
export function readLine(text: string): ReadLine {
  const value: unknown = JSON.parse(text);
  if (typeof value === "object" && value !== null && "recipe" in value) return manifestLineSchema.parse(value);
  const { transform, ...line } = firstLineSchema.parse(value);
  const made = transform.orientation !== 1 || transform.resize !== null || transform.flipSideways;
  return { ...line, made, transform, recipe: recipeOfFirst(line.source, transform, line.size) };
}

/** Under which key an output's pixels are kept: its sources and all that is done to them, and how they are encoded. */
export function renderKey(line: ReadLine, images: ManifestHeader["images"]): string {
  const { source, transform, recipe } = line;
  return sha256OfText(canonicalJson(transform ? { source, transform } : { recipe, images, kind: kindOf(line.name) }));
}

/** The kind of an output's file, by its name. */
export const kindOf = (name: string): string => name.slice(name.lastIndexOf(".") + 1);
