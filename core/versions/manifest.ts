/**
 * A version's manifest: a header line, then one canonical JSON line an output image, ordered by source hash and copy.
 * Its digest is the SHA-256 of those lines, each ended by a newline.
 */
import { z } from "zod";
import { hexOf, incrementalSha256 } from "../model/sha256";
import { canonicalJson } from "./canonical-json";
import { labeledObjectSchema, labelStates, licenceSchema, splitSchema } from "../model/item";

const sizeSchema = z.object({ width: z.number().int().positive(), height: z.number().int().positive() });

export const manifestHeaderSchema = z.object({
  larder: z.literal("manifest 1"),
  classes: z.array(
    z.object({
      name: z.string(),
      keypoints: z.array(z.string()).optional(),
      skeleton: z.array(z.tuple([z.number(), z.number()])).optional(),
      pairs: z.array(z.tuple([z.number(), z.number()])).optional(),
      supercategory: z.string().optional(),
      sourceId: z.string().optional(),
    }),
  ),
});
export type ManifestHeader = z.infer<typeof manifestHeaderSchema>;

export const manifestLineSchema = z.object({
  source: z.string().regex(/^[0-9a-f]{64}$/),
  copy: z.number().int().nonnegative(),
  name: z.string(),
  split: splitSchema,
  state: z.enum(labelStates),
  size: sizeSchema,
  transform: z.object({
    orientation: z.number().int().min(1).max(8),
    resize: sizeSchema.nullable(),
    flipSideways: z.boolean(),
  }),
  objects: z.array(labeledObjectSchema),
  classes: z.array(z.string()),
  captions: z.array(z.string()),
  fields: z.record(z.string(), z.union([z.string(), z.array(z.string())])),
  licence: licenceSchema.optional(),
});
export type ManifestLine = z.infer<typeof manifestLineSchema>;

/** The order of a manifest's lines. */
export function compareLines(
  a: Pick<ManifestLine, "source" | "copy">,
  b: Pick<ManifestLine, "source" | "copy">,
): number {
  return a.source < b.source ? -1 : a.source > b.source ? 1 : a.copy - b.copy;
}

/** Takes lines in their order, one at a time, and says the digest at the end. */
export class ManifestDigest {
  private readonly hash = incrementalSha256();
  private last: Pick<ManifestLine, "source" | "copy"> | null = null;

  constructor(header: ManifestHeader) {
    this.hash.update(new TextEncoder().encode(`${canonicalJson(header)}\n`));
  }

  /** Adds one line and returns its text. Throws where it is out of order or there twice. */
  add(line: ManifestLine): string {
    if (this.last && compareLines(this.last, line) >= 0)
      throw new Error(`manifest line out of order: ${line.source} ${line.copy}`);
    this.last = line;
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
