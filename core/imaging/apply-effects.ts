/** Tones, textures, patches and pasted objects on an output's pixels, in the order of its recipe. */
import { mapPoints } from "../geometry/transform";
import { opNamed, patchOpNamed, textureOpNamed } from "./ops/registry";
import type { ColourRaster, PixelTools } from "./ops/op";
import { toneOf } from "./ops/tones";
import { pasteCutout } from "./pixels/paste-cutout";
import { inColour, inEightBits, type Raster } from "./raster";
import type { DrawnEffect, Pasted, Recipe } from "./recipe";
import { applyTones } from "./tone/apply-tones";
import { equalize, equalizeAdaptively, stretchContrast } from "./tone/even-out";
import { saturationMatrix } from "./tone/luma";
import type { Tone } from "./tone/tone";

/** The pixels around an object that is pasted, with the map from them to the output. */
export type LoadPasted = (pasted: Pasted) => Promise<{ raster: Raster; toOutput: Pasted["matrix"] }>;

export type EffectTools = PixelTools & { loadPasted: LoadPasted };

/** Whether a recipe changes more than places. */
export function changesPixels({ grey, contrast, effects }: Recipe): boolean {
  return grey || contrast !== "none" || effects.length > 0;
}

/** The tones that a recipe begins with, and what follows them; none where something is done to the picture before. */
export function leadingTones({ grey, contrast, effects }: Recipe): { tones: Tone[]; rest: DrawnEffect[] } {
  if (grey || contrast !== "none") return { tones: [], rest: effects };
  const end = effects.findIndex(({ op }) => opNamed(op).kind !== "tone");
  const count = end < 0 ? effects.length : end;
  return { tones: effects.slice(0, count).map(toneOf), rest: effects.slice(count) };
}

async function applyEffect(raster: ColourRaster, effect: DrawnEffect, tools: EffectTools): Promise<ColourRaster> {
  const { op, values, seed = 0, places = [], pasted = [] } = effect;
  switch (opNamed(op).kind) {
    case "texture": {
      const changed = await textureOpNamed(op).change(raster, values as never, seed, tools);
      return inColour(inEightBits(changed));
    }
    case "patch":
      patchOpNamed(op).change(raster, values as never, places, seed);
      return raster;
    case "sources":
      for (const object of pasted) {
        const { raster: donor, toOutput } = await tools.loadPasted(object);
        const outline = object.outline.map((part) => part.map((ring) => mapPoints(object.matrix, ring)));
        pasteCutout(raster, inColour(inEightBits(donor)), toOutput, outline);
      }
      return raster;
    default:
      return raster;
  }
}

/** The raster after a recipe's tones and effects, in 8 bits and colour. */
export async function applyEffects(raster: Raster, recipe: Recipe, tools: EffectTools): Promise<Raster> {
  if (!changesPixels(recipe)) return raster;
  let current = inColour(inEightBits(raster));
  const evenOut = { stretch: stretchContrast, equalize, adaptive: equalizeAdaptively };
  if (recipe.grey) applyTones(current, [{ kind: "matrix", of: saturationMatrix(0) }]);
  if (recipe.contrast !== "none") evenOut[recipe.contrast](current);
  // Tones next to each other are worked out in one pass, without rounding between them.
  let tones: Tone[] = [];
  const finishTones = () => {
    applyTones(current, tones);
    tones = [];
  };
  for (const effect of recipe.effects) {
    if (opNamed(effect.op).kind === "tone") {
      tones.push(toneOf(effect));
      continue;
    }
    finishTones();
    current = await applyEffect(current, effect, tools);
  }
  finishTones();
  return current;
}
