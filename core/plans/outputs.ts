/** What a plan makes of one image: its frames, each as itself and as drawn copies, with its labels moved along. */
import { coveredShare, boxCorners } from "../geometry/covered-share";
import { shapeArea, shapeBounds } from "../geometry/shape";
import { traceMask } from "../geometry/trace";
import { compose, identity, isIdentity, mapPoints, scaling, translation, type Matrix } from "../geometry/transform";
import { framesOf, type Frame, type TilePlace } from "../imaging/frames";
import { cutObjects, moveObjects, type Dropped } from "../imaging/move-objects";
import { opNamed, patchOpNamed } from "../imaging/ops/registry";
import { fixed, fixedMatrix, preparedRecipe, type DrawnEffect, type Pasted, type Recipe } from "../imaging/recipe";
import {
  carriesLabels,
  type ClassInfo,
  type Item,
  type LabeledObject,
  type LabelState,
  type Size,
  type Split,
} from "../model/item";
import type { Box, Part, Shape } from "../model/shape";
import type { Draws } from "../model/seeded";
import { drawCopy, type DrawnCopy, type DrawnOp } from "./draw-copy";
import type { Plan } from "./plan";

/**
 * An image as a plan takes it, relabeled; `key` is the hash of its bytes, `orientation` the camera's flag (EXIF, 1…8),
 * `size` the upright one.
 */
export type PlannedImage = Pick<Item, "state" | "objects" | "classes" | "captions" | "fields"> & {
  key: string;
  size: Size;
  orientation: number;
};

/** One image that comes out: copy 0 is the frame as it is prepared. */
export type PlannedOutput = {
  copy: number;
  tile: TilePlace | null;
  size: Size;
  state: LabelState;
  recipe: Recipe;
  objects: LabeledObject[];
  classes: string[];
  dropped: Dropped[];
};

/** What beside the image itself decides what comes out of it. */
export type OutputContext = {
  plan: Plan;
  classes: ReadonlyMap<string, ClassInfo>;
  /** How often each training image goes out, by `rare`; 1 where nothing is said. */
  repeats: ReadonlyMap<string, number>;
  /** The training images, by hash and in its order, which mosaics and pasted objects are taken from. */
  pool: readonly string[];
  /** An image of the pool, relabeled. */
  partner: (key: string) => Promise<PlannedImage>;
};

type Prepared = { frame: Frame; objects: LabeledObject[]; dropped: Dropped[]; resize: Matrix };

/** An image's frames with its labels cut to each, in pixels of the frame's region. */
function prepare(image: PlannedImage, { plan, classes }: OutputContext): Prepared[] {
  return framesOf(image.size, plan.prepare).map((frame) => {
    const { objects, dropped } = cutObjects(image.objects, frame.cuts, { visible: plan.visible, classes });
    const resize = compose(translation(frame.region.x, frame.region.y), frame.matrix);
    return { frame, objects, dropped: movedOn(dropped, frame.matrix), resize };
  });
}

/** What was dropped before a map, told of after it. */
const movedOn = (dropped: readonly Dropped[], matrix: Matrix): Dropped[] =>
  dropped.map((entry) => ({ ...entry, matrix: compose(entry.matrix, matrix) }));

const isSame = (a: Size, b: Size) => a.width === b.width && a.height === b.height;

/** Labels from the frame's region to the output; `visible` counts where geometry of augmentations moves them. */
function placeObjects(
  { frame, objects, resize }: Prepared,
  copy: DrawnCopy | null,
  { plan, classes }: OutputContext,
): { objects: LabeledObject[]; dropped: Dropped[] } {
  const matrix = fixedMatrix(copy ? compose(resize, copy.warp) : resize);
  const size = copy?.size ?? frame.size;
  const still = isIdentity(matrix);
  if (still && isSame(frame.region, size)) return { objects, dropped: [] };
  const warped = copy !== null && !isIdentity(copy.warp);
  return moveObjects(objects, matrix, size, { visible: warped ? plan.visible : null, classes });
}

/** Drops what patches cover beyond `visible`. */
function dropCovered(
  objects: readonly LabeledObject[],
  cover: readonly Part[],
  visible: number,
): { objects: LabeledObject[]; dropped: Dropped[] } {
  const kept: LabeledObject[] = [];
  const dropped: Dropped[] = [];
  for (const object of objects) {
    const left = 1 - coveredShare(object.shape, cover);
    if (left > 1e-9 && left >= visible - 1e-9) kept.push(object);
    else dropped.push({ object, reason: "covered", left, matrix: identity });
  }
  return { objects: kept, dropped };
}

/** Whether a tile or an image holds nothing, by its objects and image-level classes. */
const holdsNothing = (objects: readonly LabeledObject[], classes: readonly string[]) =>
  objects.length === 0 && classes.length === 0;

function stateOf(image: PlannedImage, objects: LabeledObject[], classes: readonly string[]): LabelState {
  const { captions, fields } = image;
  if (carriesLabels({ objects, classes: [...classes], captions, fields })) return "labeled";
  return image.state === "labeled" ? "empty" : image.state;
}

const tileName = (tile: TilePlace | null) => (tile ? `${tile.row},${tile.column}` : "");

/** The windows of a mosaic's four parts, in the order top left, top right, bottom left, bottom right. */
function mosaicWindows({ width, height }: Size, [u, v]: readonly [number, number]): Box[] {
  const x = Math.min(width - 1, Math.max(1, Math.round(u * width)));
  const y = Math.min(height - 1, Math.max(1, Math.round(v * height)));
  return [
    { x: 0, y: 0, width: x, height: y },
    { x, y: 0, width: width - x, height: y },
    { x: 0, y, width: x, height: height - y },
    { x, y, width: width - x, height: height - y },
  ];
}

/** The map of a picture on its frame that fills a window, its corner nearest to the mosaic's centre on that centre. */
function intoWindow(content: Box, window: Box, place: number): Matrix {
  const factor = Math.max(window.width / content.width, window.height / content.height);
  const x = place % 2 === 0 ? window.x + window.width - content.width * factor : window.x;
  const y = place < 2 ? window.y + window.height - content.height * factor : window.y;
  return compose(compose(translation(-content.x, -content.y), scaling(factor, factor)), translation(x, y));
}

const pickFrom = <T>(list: readonly T[], draws: Draws): T => list[draws.whole(0, list.length - 1)] as T;

/** The parts of a mosaic, and the labels that are seen in their windows, in pixels of the frame. */
async function mosaicParts(
  image: PlannedImage,
  base: Prepared,
  { centre, draws }: NonNullable<DrawnCopy["mosaic"]>,
  context: OutputContext,
): Promise<{ parts: Recipe["parts"]; objects: LabeledObject[]; classes: string[]; dropped: Dropped[] }> {
  const { plan, classes } = context;
  const windows = mosaicWindows(base.frame.size, centre);
  const keys = windows.map((_, at) => (at === 0 ? image.key : pickFrom(context.pool, draws)));
  const parts: Recipe["parts"] = [];
  const objects: LabeledObject[] = [];
  const dropped: Dropped[] = [];
  const named = new Set<string>();
  for (const [at, window] of windows.entries()) {
    const partner = at === 0 ? image : await context.partner(keys[at] as string);
    const prepared = at === 0 ? base : pickFrom(prepare(partner, context), draws);
    const into = intoWindow(prepared.frame.content, window, at);
    const [part] = preparedRecipe(partner, prepared.frame, plan.prepare).parts;
    if (!part) continue;
    parts.push({ ...part, matrix: fixedMatrix(compose(prepared.frame.matrix, into)), window });
    // Labels are cut to the window in pixels of its own, then put back into the frame.
    const toWindow = compose(compose(prepared.resize, into), translation(-window.x, -window.y));
    const seen = moveObjects(prepared.objects, fixedMatrix(toWindow), window, { visible: plan.visible, classes });
    const back = moveObjects(seen.objects, translation(window.x, window.y), base.frame.size, {
      visible: null,
      classes,
    });
    objects.push(...back.objects);
    dropped.push(...movedOn(seen.dropped, translation(window.x, window.y)));
    for (const name of partner.classes) named.add(name);
  }
  return { parts, objects, classes: [...named], dropped };
}

/** An object's outline in parts: its polygon, or its mask traced; null where it has none. */
function outlineOf(shape: Shape): Part[] | null {
  if (shape.kind === "polygon") return shape.parts;
  if (shape.kind === "mask") return traceMask(shape.counts, shape.width, shape.height);
  return null;
}

/** How often another donor, and another place, is tried for an object to paste. */
const tries = 12;
/** An object may be pasted over so much of another. */
const mostPastedOver = 0.3;

type Pasting = { pasted: Pasted[]; objects: LabeledObject[] };

/** Objects of other images at places where they fit, in pixels of an output of this size. */
async function pasteObjects(
  { values, draws }: DrawnOp,
  image: PlannedImage,
  size: Size,
  present: readonly LabeledObject[],
  context: OutputContext,
): Promise<Pasting> {
  const wanted = values["classes"] as readonly string[];
  const found: Pasting = { pasted: [], objects: [] };
  for (let n = 0; n < (values["count"] as number); n++) {
    const donor = await drawDonor(wanted, image, draws, context);
    if (!donor) continue;
    const place = drawPlace(donor, size, [...present, ...found.objects], draws);
    if (!place) continue;
    const { partner, object, outline, matrix } = donor;
    const toOutput = fixedMatrix(compose(matrix, place));
    const { objects } = moveObjects([object], toOutput, size, { visible: null, classes: context.classes });
    const [moved] = objects;
    if (!moved) continue;
    found.objects.push(moved);
    found.pasted.push({
      source: partner.key,
      orientation: partner.orientation,
      size: partner.size,
      outline: outline.map((part) => part.map((ring) => ring.map(fixed))),
      matrix: toOutput,
    });
  }
  return found;
}

type Donor = { partner: PlannedImage; object: LabeledObject; outline: Part[]; matrix: Matrix };

/** An object with an outline from another image, with the map to the size it has once it is prepared. */
async function drawDonor(
  wanted: readonly string[],
  image: PlannedImage,
  draws: Draws,
  context: OutputContext,
): Promise<Donor | null> {
  for (let n = 0; n < tries; n++) {
    const key = pickFrom(context.pool, draws);
    if (key === image.key) continue;
    const partner = await context.partner(key);
    const able = partner.objects.flatMap((object) => {
      const outline = wanted.length === 0 || wanted.includes(object.class) ? outlineOf(object.shape) : null;
      return outline && outline.length > 0 ? [{ object, outline }] : [];
    });
    if (able.length === 0) continue;
    const { object, outline } = pickFrom(able, draws);
    const [frame] = framesOf(partner.size, { ...context.plan.prepare, crop: noCrop, tiles: null });
    if (frame) return { partner, object, outline, matrix: frame.matrix };
  }
  return null;
}

const noCrop = { left: 0, top: 0, right: 0, bottom: 0 };

/** A shift to a place inside the output where no other object is covered by more than is allowed; null where none is found. */
function drawPlace(
  { outline, matrix }: Donor,
  size: Size,
  present: readonly LabeledObject[],
  draws: Draws,
): Matrix | null {
  const scaled = outline.map((part) => part.map((ring) => mapPoints(matrix, ring)));
  const box = shapeBounds({ kind: "polygon", parts: scaled });
  if (!box || box.width > size.width || box.height > size.height) return null;
  for (let n = 0; n < tries; n++) {
    const x = Math.round(draws.next() * (size.width - box.width) - box.x);
    const y = Math.round(draws.next() * (size.height - box.height) - box.y);
    const shift = translation(x, y);
    const cover = scaled.map((part) => part.map((ring) => mapPoints(shift, ring)));
    const fits = present.every(({ shape }) => shapeArea(shape) === 0 || coveredShare(shape, cover) <= mostPastedOver);
    if (fits) return shift;
  }
  return null;
}

/** Runs the drawn effects over labels, and says them as the recipe keeps them. */
async function drawEffects(
  copy: DrawnCopy,
  image: PlannedImage,
  labels: LabeledObject[],
  context: OutputContext,
): Promise<{ effects: DrawnEffect[]; objects: LabeledObject[]; dropped: Dropped[] }> {
  let objects = labels;
  const effects: DrawnEffect[] = [];
  const dropped: Dropped[] = [];
  const cover = (parts: Part[]) => {
    const rest = dropCovered(objects, parts, context.plan.visible);
    objects = rest.objects;
    dropped.push(...rest.dropped);
  };
  for (const drawn of copy.effects) {
    const { op, values, draws } = drawn;
    const { kind } = opNamed(op);
    if (kind === "sources") {
      const { pasted, objects: added } = await pasteObjects(drawn, image, copy.size, objects, context);
      if (pasted.length === 0) continue;
      cover(
        pasted.flatMap(({ outline, matrix }) => outline.map((part) => part.map((ring) => mapPoints(matrix, ring)))),
      );
      objects = [...objects, ...added];
      effects.push({ op, values, pasted });
    } else if (kind === "patch") {
      const patch = patchOpNamed(op);
      const boxes = objects.flatMap(({ shape }) => shapeBounds(shape) ?? []);
      const places = [...patch.places(values as never, copy.size, boxes, draws)];
      if (patch.covers) cover(places.map((box) => [boxCorners(box)]));
      effects.push({ op, values, seed: draws.seed(), places });
    } else effects.push(kind === "texture" ? { op, values, seed: draws.seed() } : { op, values });
  }
  return { effects, objects, dropped };
}

/** One copy of a frame, drawn. */
async function copyOf(
  image: PlannedImage,
  base: Prepared,
  copy: DrawnCopy,
  context: OutputContext,
): Promise<Pick<PlannedOutput, "recipe" | "objects" | "classes" | "dropped">> {
  const { plan, classes } = context;
  const recipe = preparedRecipe(image, base.frame, plan.prepare);
  recipe.warp = fixedMatrix(copy.warp);
  recipe.size = copy.size;
  let named = image.classes;
  let placed = { objects: [] as LabeledObject[], dropped: [] as Dropped[] };
  if (copy.mosaic) {
    const mosaic = await mosaicParts(image, base, copy.mosaic, context);
    recipe.parts = mosaic.parts;
    named = mosaic.classes;
    const moved = moveObjects(mosaic.objects, recipe.warp, copy.size, { visible: plan.visible, classes });
    placed = { objects: moved.objects, dropped: [...movedOn(mosaic.dropped, recipe.warp), ...moved.dropped] };
  } else placed = placeObjects(base, copy, context);
  const { effects, objects, dropped } = await drawEffects(copy, image, placed.objects, context);
  return {
    recipe: { ...recipe, effects },
    objects,
    classes: named,
    dropped: [...movedOn(base.dropped, recipe.warp), ...placed.dropped, ...dropped],
  };
}

/** The numbers of the copies that go out of a training image; 0 is the image itself. */
export function copyNumbers({ copies, original }: Plan["augment"], repeats: number): number[] {
  const drawn = original ? repeats * (copies + 1) - 1 : repeats * copies;
  return [...(original ? [0] : []), ...Array.from({ length: drawn }, (_, at) => at + 1)];
}

/** The frames of an image as they are prepared, none of them a copy. */
export function* preparedOutputs(image: PlannedImage, context: OutputContext): Generator<PlannedOutput> {
  for (const base of prepare(image, context)) {
    if (isLeftOut(base, image, context.plan)) continue;
    yield preparedOutput(base, image, context);
  }
}

const isLeftOut = ({ objects }: Prepared, { classes }: PlannedImage, plan: Plan) =>
  plan.prepare.tiles?.empty === "leave-out" && holdsNothing(objects, classes);

function preparedOutput(base: Prepared, image: PlannedImage, context: OutputContext, copy = 0): PlannedOutput {
  const { objects, dropped } = placeObjects(base, null, context);
  return {
    copy,
    tile: base.frame.tile,
    size: base.frame.size,
    state: stateOf(image, objects, image.classes),
    recipe: preparedRecipe(image, base.frame, context.plan.prepare),
    objects,
    classes: image.classes,
    dropped: [...base.dropped, ...dropped],
  };
}

/** What comes out of an image in this split: training images alone are copied, repeated and changed. */
export async function* outputsOf(
  image: PlannedImage,
  split: Split,
  context: OutputContext,
): AsyncGenerator<PlannedOutput> {
  const { plan, repeats } = context;
  const numbers = split === "train" ? copyNumbers(plan.augment, repeats.get(image.key) ?? 1) : [0];
  const { do: steps, unchanged } = plan.augment;
  for (const base of prepare(image, context)) {
    const { frame } = base;
    if (isLeftOut(base, image, plan)) continue;
    for (const copy of numbers) {
      const drawn =
        copy === 0
          ? null
          : drawCopy(steps, frame.size, { seed: plan.seed, key: image.key, tile: tileName(frame.tile), copy });
      if (drawn && !drawn.changes && unchanged === "leave-out") continue;
      if (drawn?.changes) {
        const made = await copyOf(image, base, drawn, context);
        yield { copy, tile: frame.tile, size: drawn.size, state: stateOf(image, made.objects, made.classes), ...made };
      } else yield preparedOutput(base, image, context, copy);
    }
  }
}
