/** Every op there is, in the order in which screens and documentation show them. */
import { blur } from "./blur";
import { cropTo } from "./crop-to";
import { erase } from "./erase";
import { flipOver } from "./flip-over";
import { flipSideways } from "./flip-sideways";
import { jpeg } from "./jpeg";
import { mosaic } from "./mosaic";
import { motionBlur } from "./motion-blur";
import { noise } from "./noise";
import type { AnyOp, Effect, GeometryOp, NumberParameter, OpKind, PatchOp, TextureOp } from "./op";
import { paste } from "./paste";
import { perspective } from "./perspective";
import { pixelate } from "./pixelate";
import { quarterTurn } from "./quarter-turn";
import { rotate } from "./rotate";
import { scale } from "./scale";
import { sharpen } from "./sharpen";
import { shear } from "./shear";
import { shift } from "./shift";
import { speckle } from "./speckle";
import { toneInBoxes } from "./tone-in-boxes";
import { toneOps } from "./tones";

const geometryOps = [flipSideways, flipOver, quarterTurn, rotate, shear, scale, shift, perspective, cropTo] as const;
const textureOps = [blur, motionBlur, noise, speckle, jpeg, sharpen, pixelate] as const;
const patchOps = [erase, toneInBoxes] as const;

export const ops: readonly AnyOp[] = [...geometryOps, ...toneOps, ...textureOps, ...patchOps, mosaic, paste];

export const kindTitles: Record<OpKind, string> = {
  geometry: "Geometry",
  tone: "Tone",
  texture: "Texture",
  patch: "Patches",
  sources: "Several sources",
};

const byName = new Map(ops.map((op) => [op.name, op]));

export function opNamed(name: string): AnyOp {
  const op = byName.get(name);
  if (!op) throw new RangeError(`there is no op ${name}`);
  return op;
}

function ofKind<T>(list: readonly { name: string }[]): (name: string) => T {
  const found = new Map(list.map((op) => [op.name, op]));
  return (name) => {
    const op = found.get(name);
    if (!op) throw new RangeError(`there is no such op ${name}`);
    return op as T;
  };
}

export const geometryOpNamed = ofKind<GeometryOp>(geometryOps);
export const textureOpNamed = ofKind<TextureOp>(textureOps);
export const patchOpNamed = ofKind<PatchOp>(patchOps);

/** Whether the values that were drawn change nothing: every number that can be neutral is. */
export function isNeutral({ op, values }: Effect): boolean {
  const neutral = Object.entries(opNamed(op).parameters).filter(
    (entry): entry is [string, NumberParameter] => entry[1].kind === "number" && entry[1].neutral !== undefined,
  );
  return neutral.length > 0 && neutral.every(([name, { neutral: value }]) => values[name] === value);
}
