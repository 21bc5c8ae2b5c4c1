/** Makes the pixels of outputs by their recipes, and encodes them. */
import { applyEffects, changesPixels, leadingTones, type LoadPasted } from "@larder/core/imaging/apply-effects";
import { fromCut } from "@larder/core/imaging/pixels/paste-cutout";
import { inColour, inEightBits, type Raster } from "@larder/core/imaging/raster";
import { leavesBytes, type Recipe, type RecipePart } from "@larder/core/imaging/recipe";
import { localScale } from "@larder/core/imaging/sampling/local-scale";
import { sampleParts, sampleToned, type SampledPart } from "@larder/core/imaging/sampling/sample-parts";
import { boundsOfPoints } from "@larder/core/geometry/box";
import { compose, isIdentity, scaling, translation, type Matrix } from "@larder/core/geometry/transform";
import type { Size } from "@larder/core/model/item";
import type { Box } from "@larder/core/model/shape";
import type { Plan } from "@larder/core/plans/plan";
import sharp, { type Sharp } from "sharp";
import { deepened, depthOf, openPart, rasterOf, type Depth } from "./load-part";
import { openImage } from "./open";

export type Encoding = Plan["pack"]["images"];

/**
 * The kind of file an output is: what was asked for; else the source's own where it can be written well, and PNG where
 * not. Bytes that can stay as they are keep their kind.
 */
export function renderedExtension(source: string, recipe: Recipe, { as }: Pick<Encoding, "as">): string {
  if (leavesBytes(recipe) && (as === "same" || as === source)) return source;
  if (as !== "same") return as;
  return source === "jpg" || source === "webp" ? source : "png";
}

/** The bytes of an image by its hash. */
export type ReadSource = (source: string) => Promise<Uint8Array>;

/** The size to shrink a cut to before it is sampled; it is never enlarged here. */
function shrunkSize(region: Size, matrix: Matrix): Size {
  const scale = localScale(matrix, region);
  const side = (length: number, factor: number) =>
    factor >= 1 ? length : Math.max(1, Math.min(length, Math.ceil(length * factor - 1e-6)));
  return { width: side(region.width, scale.x), height: side(region.height, scale.y) };
}

const onRegion = ({ matrix, region }: Pick<RecipePart, "matrix" | "region">) =>
  compose(translation(region.x, region.y), matrix);

/** Encodes pixels; JPEG and WebP at `quality`, 0 … 100. */
function encoded(image: Sharp, kind: string, { quality, fineColour }: { quality: number; fineColour: boolean }): Sharp {
  if (kind === "jpg")
    return (
      image
        .flatten({ background: "#ffffff" })
        // Tables made for each picture take half the time of encoding again, for a twentieth of its bytes.
        .jpeg({ quality, chromaSubsampling: fineColour ? "4:4:4" : "4:2:0", optimiseCoding: false })
    );
  if (kind === "webp") return image.webp({ quality });
  return image.png({ compressionLevel: 6 });
}

const asImage = ({ data, width, height, channels }: Raster): Sharp => sharp(data, { raw: { width, height, channels } });

/** Renders outputs, keeping decoded parts between those of one image. */
export class Renderer {
  private readonly rasters = new Map<string, Promise<Raster>>();
  private readonly depths = new Map<string, Promise<{ depth: Depth; fineColour: boolean }>>();

  /** `outputs` is how many outputs of one image are to be rendered: several share what is decoded. */
  constructor(
    private readonly read: ReadSource,
    private readonly outputs = 1,
  ) {}

  private async raster(
    { source, orientation, size, region }: Pick<RecipePart, "source" | "orientation" | "size" | "region">,
    target: Size,
    depth: Depth,
  ): Promise<Raster> {
    const key = JSON.stringify([source, region, target, depth]);
    const known = this.rasters.get(key);
    if (known) return known;
    const loading = this.read(source).then(async (bytes) =>
      rasterOf(await openPart(bytes, { orientation, size, region }, target), depth),
    );
    // One image's copies share what is decoded; more than that would fill the memory.
    if (this.rasters.size >= 4) this.rasters.delete(this.rasters.keys().next().value as string);
    this.rasters.set(key, loading);
    return loading;
  }

  /** How deep a source's pixels are, and whether its colours are as fine as its tones. */
  private kindOf(source: string): Promise<{ depth: Depth; fineColour: boolean }> {
    const known = this.depths.get(source);
    if (known) return known;
    const looking = this.read(source).then(async (bytes) => {
      const image = await openImage(bytes);
      const { chromaSubsampling } = await image.metadata();
      return { depth: await depthOf(image), fineColour: chromaSubsampling !== "4:2:0" };
    });
    if (this.depths.size > 1000) this.depths.clear();
    this.depths.set(source, looking);
    return looking;
  }

  private readonly loadPasted: LoadPasted = async ({ source, orientation, size, outline, matrix }) => {
    const bounds = boundsOfPoints(outline.flatMap((part) => part[0] ?? [])) ?? { x: 0, y: 0, width: 1, height: 1 };
    const left = Math.max(0, Math.floor(bounds.x) - 4);
    const top = Math.max(0, Math.floor(bounds.y) - 4);
    const region: Box = {
      x: left,
      y: top,
      width: Math.max(1, Math.min(size.width, Math.ceil(bounds.x + bounds.width) + 4) - left),
      height: Math.max(1, Math.min(size.height, Math.ceil(bounds.y + bounds.height) + 4) - top),
    };
    const target = shrunkSize(region, onRegion({ matrix, region }));
    const raster = await this.raster({ source, orientation, size, region }, target, "8 bits");
    const scale = scaling(target.width / region.width, target.height / region.height);
    return { raster, toOutput: fromCut(matrix, region, scale) as typeof matrix };
  };

  private async parts({ parts, warp }: Recipe, depth: Depth): Promise<SampledPart[]> {
    const loaded = await Promise.all(
      parts.map(async (part): Promise<SampledPart> => {
        const { region, window } = part;
        const target = shrunkSize(region, compose(onRegion(part), warp));
        const raster = await this.raster(part, target, depth);
        const back = scaling(region.width / raster.width, region.height / raster.height);
        return { raster, toFrame: compose(back, onRegion(part)), window: window ?? undefined };
      }),
    );
    const channels = new Set(loaded.map(({ raster }) => raster.channels));
    // Pictures of several kinds on one frame are all brought to colour without transparency.
    if (channels.size === 1) return loaded;
    return loaded.map((part) => ({ ...part, raster: opaque(inColour(inEightBits(part.raster))) }));
  }

  /** The output's pixels, before they are encoded. */
  async pixels(recipe: Recipe): Promise<Raster> {
    const kinds = await Promise.all(recipe.parts.map(({ source }) => this.kindOf(source)));
    const [first] = kinds;
    const depth = first && kinds.every((kind) => kind.depth === first.depth) ? first.depth : "8 bits";
    const { frame, warp, size, outside } = recipe;
    const parts = await this.parts(recipe, depth);
    const { tones, rest } = leadingTones(recipe);
    const toned = sampleToned(parts, { warp, size, outside }, tones);
    const sampled = toned ?? sampleParts(parts, { frame, warp, size, outside });
    return applyEffects(sampled, toned ? { ...recipe, effects: rest } : recipe, {
      loadPasted: this.loadPasted,
      compressed: async (raster, quality) => {
        const bytes = await asImage(raster).flatten().jpeg({ quality }).toBuffer();
        return rasterOf(sharp(bytes), "8 bits");
      },
    });
  }

  /** The whole cut shrunk onto the whole output, which the image library does in one go; null where it is more than that. */
  private async plain(recipe: Recipe): Promise<Sharp | null> {
    const [part, ...others] = recipe.parts;
    if (!part || others.length > 0 || part.window || !isIdentity(recipe.warp) || changesPixels(recipe)) return null;
    const { region } = part;
    const [a, b, x, d, e, y] = onRegion(part);
    const fills =
      b === 0 &&
      d === 0 &&
      x === 0 &&
      y === 0 &&
      Math.abs(a * region.width - recipe.size.width) < 1e-6 &&
      Math.abs(e * region.height - recipe.size.height) < 1e-6;
    if (!fills || a > 1 || e > 1) return null;
    if (this.outputs === 1) return openPart(await this.read(part.source), part, recipe.size);
    const { depth } = await this.kindOf(part.source);
    return asImage(await this.raster(part, recipe.size, depth));
  }

  /** The output's file, of this kind: jpg, png or webp, the first and last at `level`, 0 … 100. */
  async render(recipe: Recipe, kind: string, level: number): Promise<Uint8Array> {
    const source = recipe.parts[0]?.source ?? "";
    const { depth, fineColour } = await this.kindOf(source);
    const quality = { quality: level, fineColour };
    const plain = await this.plain(recipe);
    if (plain) return encoded(deepened(plain, kind === "png" ? depth : "8 bits"), kind, quality).toBuffer();
    const raster = await this.pixels(recipe);
    if (raster.data instanceof Uint16Array && kind === "png")
      return encoded(deepened(asImage(raster), depth), kind, quality).toBuffer();
    return encoded(asImage(inEightBits(raster)), kind, quality).toBuffer();
  }
}

function opaque(raster: Raster): Raster {
  if (raster.channels !== 4) return raster;
  const pixels = raster.width * raster.height;
  const data = new Uint8Array(pixels * 3);
  for (let at = 0; at < pixels; at++)
    for (let channel = 0; channel < 3; channel++) data[at * 3 + channel] = raster.data[at * 4 + channel] as number;
  return { ...raster, data, channels: 3 };
}

/** Kinds of file that every browser shows. */
const shown = new Set(["jpg", "png", "webp", "gif", "avif", "bmp"]);

/**
 * A picture upright, as a browser can show it: its own bytes where they can stay, else rendered. Also says what kind of
 * file that is.
 */
export async function renderForScreen(
  bytes: Uint8Array,
  orientation: number,
  extension: string,
): Promise<{ bytes: Uint8Array; extension: string }> {
  if (!shown.has(extension))
    return {
      bytes: await (await openImage(bytes)).autoOrient().toColourspace("srgb").png().toBuffer(),
      extension: "png",
    };
  if (orientation === 1) return { bytes, extension };
  const kind = extension === "jpg" || extension === "webp" ? extension : "png";
  const image = (await openImage(bytes)).autoOrient().toColourspace("srgb");
  return { bytes: await encoded(image, kind, { quality: 95, fineColour: true }).toBuffer(), extension: kind };
}
