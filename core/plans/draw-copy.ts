/** What is drawn for one copy of an image: which ops, in which order, with which values. */
import { geometryOpNamed, isNeutral, opNamed } from "../imaging/ops/registry";
import type { Effect, Parameter } from "../imaging/ops/op";
import { fixed } from "../imaging/recipe";
import { compose, identity, isIdentity, type Matrix } from "../geometry/transform";
import type { Size } from "../model/item";
import { Draws } from "../model/seeded";
import { isOneOf, isSomeOf, type AugmentStep, type OpStep, type ParameterValue, type ToneStep } from "./augmentations";

/** An op that was drawn, with the stream that its further draws come from. */
export type DrawnOp = Effect & { draws: Draws };

export type DrawnCopy = {
  /** From the frame to the output, all geometry in one. */
  warp: Matrix;
  size: Size;
  /** Where a mosaic's four parts meet, as shares of the frame; null where there is none. */
  mosaic: { centre: [number, number]; draws: Draws } | null;
  /** Tones, textures, patches and pasted objects, in the order written. */
  effects: DrawnOp[];
  /** False where the copy is the prepared image itself. */
  changes: boolean;
};

function drawNumber(value: number | readonly [number, number], wholeNumber: boolean, draws: Draws): number {
  if (typeof value === "number") return value;
  return wholeNumber ? draws.whole(...value) : fixed(draws.between(...value));
}

function drawValue(parameter: Parameter, value: ParameterValue, draws: Draws): unknown {
  switch (parameter.kind) {
    case "number":
      return drawNumber(value as number | readonly [number, number], parameter.whole ?? false, draws);
    case "one-of": {
      const list = value as readonly number[];
      return list[draws.whole(0, list.length - 1)];
    }
    case "tones":
      return (value as readonly ToneStep[]).map((step) => drawValues(step, draws));
    default:
      return value;
  }
}

function drawValues(step: ToneStep | OpStep, draws: Draws): Effect {
  const values = Object.entries(opNamed(step.op).parameters).map(
    ([name, parameter]) => [name, drawValue(parameter, step[name] as ParameterValue, draws)] as const,
  );
  return { op: step.op, values: Object.fromEntries(values) };
}

/** Which of a group's ops are drawn: some of them, each at most once, in the order written. */
function someOf(count: number, from: number, draws: Draws): number[] {
  const places = Array.from({ length: from }, (_, at) => at);
  for (let at = 0; at < count; at++) {
    const other = draws.whole(at, from - 1);
    [places[at], places[other]] = [places[other] as number, places[at] as number];
  }
  return places.slice(0, count).sort((a, b) => a - b);
}

/** The steps that happen for this copy, each with its place in the list. */
function chosenSteps(
  steps: readonly AugmentStep[],
  drawsAt: (place: string) => Draws,
): { step: OpStep; draws: Draws }[] {
  return steps.flatMap((step, at) => {
    const place = String(at);
    const draws = drawsAt(place);
    if (step.chance < 1 && draws.next() >= step.chance) return [];
    if (!isOneOf(step) && !isSomeOf(step)) return [{ step, draws }];
    const list = isOneOf(step) ? step.oneOf : step.ops;
    const count = isOneOf(step) ? 1 : draws.whole(...step.someOf);
    return someOf(count, list.length, draws).flatMap((inner) => {
      const own = drawsAt(`${place}.${inner}`);
      const chosen = list[inner] as OpStep;
      return chosen.chance < 1 && own.next() >= chosen.chance ? [] : [{ step: chosen, draws: own }];
    });
  });
}

/**
 * Draws a copy. It depends on the seed, the image's hash, the tile, the copy's number and each op's place in the list,
 * and on nothing else.
 */
export function drawCopy(
  steps: readonly AugmentStep[],
  frame: Size,
  { seed, key, tile, copy }: { seed: number; key: string; tile: string; copy: number },
): DrawnCopy {
  const drawn: DrawnCopy = { warp: identity, size: frame, mosaic: null, effects: [], changes: false };
  for (const { step, draws } of chosenSteps(steps, (place) => new Draws("augment", seed, key, tile, copy, place))) {
    const effect = drawValues(step, draws);
    const { kind } = opNamed(step.op);
    if (kind === "geometry") {
      const { matrix, size } = geometryOpNamed(step.op).place(effect.values as never, drawn.size, draws);
      drawn.warp = compose(drawn.warp, matrix);
      drawn.size = size;
    } else if (step.op === "mosaic") {
      const centre = step["centre"] as number | readonly [number, number];
      drawn.mosaic = { centre: [effect.values["centre"] as number, drawNumber(centre, false, draws)], draws };
    } else if (!isNeutral(effect)) drawn.effects.push({ ...effect, draws });
  }
  drawn.changes =
    !isIdentity(drawn.warp) ||
    drawn.size.width !== frame.width ||
    drawn.size.height !== frame.height ||
    drawn.mosaic !== null ||
    drawn.effects.length > 0;
  return drawn;
}
