/** Evidence beside a plan's controls: one of its training images as it is, and as it goes out. */
import { isIdentity, mapShape } from "@larder/core/geometry/transform";
import type { Dropped, DropReason } from "@larder/core/imaging/move-objects";
import { preparedOutputs, outputsOf, type PlannedOutput } from "@larder/core/plans/outputs";
import { Failure } from "@larder/core/model/failure";
import type { LabeledObject, Size } from "@larder/core/model/item";
import type { Shape } from "@larder/core/model/shape";
import { opNamed } from "@larder/core/imaging/ops/registry";
import type { Plan } from "@larder/core/plans/plan";
import { relabeledImage } from "@larder/core/versions/version-lines";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../../db/database";
import { rowOf } from "../../db/query";
import { renderOutputs } from "../../pixels/render-pool";
import { allow } from "../access";
import type { Actor } from "../actor";
import { loadImage, plannedRun } from "./planned-run";
import { resolvePlan } from "./resolve-plan";
import { readSource } from "../source-bytes";

export type Ghost = { class: string; shape: Shape; reason: DropReason; left: number };
export type Sample = {
  copy: number;
  width: number;
  height: number;
  words: string;
  objects: LabeledObject[];
  /** Objects that this output does not have any more: where they would lie in its pixels, and why they are gone. */
  ghosts: Ghost[];
  picture: string;
};
export type Evidence = { name: string; split: string; before: Sample; after: Sample[] };

export const evidenceSchema = z.object({
  /** Picks another image. */
  turn: z.number().int().min(0).default(0),
  /** Draws anew: each number another draw of the same plan. */
  draw: z.number().int().min(0).max(1_000_000).default(0),
  /** An image of the stock, by its hash, instead of one that is picked. */
  image: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .nullable()
    .default(null),
  /** An image of the stock by its path, or the last part of it, instead of one that is picked. */
  named: z.string().trim().max(1000).default(""),
  /** How many outputs are shown. */
  many: z.number().int().min(1).max(12).default(4),
});

/** What was done to an output, in a few words. */
function wordsFor({ copy, tile, recipe }: PlannedOutput): string {
  const place = tile ? [`tile ${tile.row + 1}, ${tile.column + 1}`] : [];
  const warped = !isIdentity(recipe.warp);
  const done = [
    ...(recipe.parts.length > 1 ? ["mosaic"] : []),
    ...(warped ? ["moved"] : []),
    ...recipe.effects.map(({ op }) => opNamed(op).title.toLowerCase()),
  ];
  if (copy === 0) return [...place, `${recipe.size.width} × ${recipe.size.height}`].join(", ");
  return [...place, ...(done.length > 0 ? done : ["unchanged"])].join(", ");
}

/** Longer sides than this are shown no larger. */
const shownSide = 640;

/** The output's picture as a data URL, and its labels. */
async function sampleOf(output: PlannedOutput): Promise<Sample> {
  const [file] = await renderOutputs([{ recipe: shownRecipe(output), kind: "webp" }], 80, readSource);
  const { copy, size, objects, dropped } = output;
  const picture = `data:image/webp;base64,${Buffer.from(file as Uint8Array).toString("base64")}`;
  return {
    copy,
    ...size,
    words: wordsFor(output),
    objects,
    ghosts: dropped.map((gone) => ghostOf(gone, size)),
    picture,
  };
}

function ghostOf({ object, reason, left, matrix }: Dropped, size: Size): Ghost {
  return { class: object.class, shape: mapShape(object.shape, matrix, size), reason, left };
}

/** The recipe as it is: outputs are shown at their size, larger ones by the browser. */
function shownRecipe({ recipe, size }: PlannedOutput): PlannedOutput["recipe"] {
  const factor = Math.min(1, shownSide / Math.max(size.width, size.height));
  if (factor === 1 || recipe.effects.length > 0) return recipe;
  const shown = {
    width: Math.max(1, Math.round(size.width * factor)),
    height: Math.max(1, Math.round(size.height * factor)),
  };
  const [sx, sy] = [shown.width / size.width, shown.height / size.height];
  const [a, b, c, d, e, f, g, h, i] = recipe.warp;
  return { ...recipe, size: shown, warp: [a * sx, b * sx, c * sx, d * sy, e * sy, f * sy, g, h, i] };
}

const hashSchema = z.object({ sha256: z.string() });

/** The hash of the image that goes by a path or its last part; of several the first by path. */
async function hashOfNamed(collection: number, name: string): Promise<string> {
  const found = await rowOf(
    db(),
    hashSchema,
    sql`select sha256 from images where collection_id = ${collection} and removed_at is null
      and (name = ${name} or right(name, ${name.length + 1}) = ${`/${name}`}) order by name limit 1`,
  );
  if (!found) throw new Failure("image-missing", `No image in stock is called "${name}".`, 404);
  return found.sha256;
}

/** One image before and after the plan, labels moved along; null where no image comes through. */
export async function planEvidence(
  actor: Actor,
  collection: number,
  body: Plan,
  input: z.input<typeof evidenceSchema>,
): Promise<Evidence | null> {
  await allow(actor, "see", { collection });
  const { turn, draw, image, named, many } = evidenceSchema.parse(input);
  const asked = image ?? (named === "" ? null : await hashOfNamed(collection, named));
  const question = await resolvePlan(collection, body);
  // Splits and selections stay as the plan's own seed has them: only what is drawn for copies is drawn anew.
  const { flow, context, labeled } = await plannedRun(collection, question);
  const drawn = { ...context, plan: { ...context.plan, seed: (context.plan.seed + draw) % 2 ** 31 } };
  const candidates = context.pool.filter((key) => labeled.has(key));
  const pool = candidates.length > 0 ? candidates : context.pool.length > 0 ? context.pool : [...flow.assigned.keys()];
  const key = asked ?? pool[(turn * 7) % Math.max(1, pool.length)];
  if (key === undefined) return null;
  const stocked = await loadImage(db(), collection, key);
  const relabeled = relabeledImage(stocked, flow);
  const still = {
    ...context,
    plan: {
      ...context.plan,
      prepare: {
        ...context.plan.prepare,
        crop: { left: 0, top: 0, right: 0, bottom: 0 },
        tiles: null,
        resize: null,
        tone: { grey: false, contrast: "none" as const },
      },
    },
  };
  const [before] = preparedOutputs(relabeled, still);
  if (!before) return null;
  const outputs: PlannedOutput[] = [];
  for await (const output of outputsOf(relabeled, flow.assigned.get(key) ?? "train", drawn)) {
    outputs.push(output);
    if (outputs.length >= many) break;
  }
  const [first, ...after] = await Promise.all([before, ...outputs].map(sampleOf));
  return first
    ? { name: relabeled.name, split: flow.assigned.get(key) ?? "none", before: { ...first, words: "in stock" }, after }
    : null;
}
