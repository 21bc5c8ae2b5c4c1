/** The tone ops by their names. */
import type { Tone } from "../tone/tone";
import { brightness } from "./brightness";
import { contrast } from "./contrast";
import { exposure } from "./exposure";
import { gamma } from "./gamma";
import { grey } from "./grey";
import { hue } from "./hue";
import { invertTones } from "./invert";
import type { Effect, ToneOp } from "./op";
import { posterize } from "./posterize";
import { saturation } from "./saturation";
import { solarize } from "./solarize";
import { warmth } from "./warmth";

export const toneOps = [
  brightness,
  exposure,
  gamma,
  contrast,
  saturation,
  hue,
  warmth,
  grey,
  invertTones,
  posterize,
  solarize,
] as const;

const byName = new Map<string, ToneOp>(toneOps.map((op) => [op.name, op as unknown as ToneOp]));

/** What a drawn tone op does. Throws where there is no tone op of that name. */
export function toneOf({ op, values }: Effect): Tone {
  const found = byName.get(op);
  if (!found) throw new RangeError(`there is no tone op ${op}`);
  return found.tone(values as never);
}
