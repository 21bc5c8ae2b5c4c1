/**
 * Sampling and tones in one pass (core/wasm/assembly/fused.ts), for what nearly all outputs are: three channels of 8 bits, an
 * affine map, the edge beyond, linear interpolation. Levels are not rounded between sampling and tones.
 */
import type { Matrix } from "../../geometry/transform";
import type { Size } from "../../model/item";
import type { Raster } from "../raster";
import type { Tone } from "../tone/tone";
import { fusedBytes } from "../../wasm/fused-bytes";
import { firstByte, instantiate, type Memory } from "../../wasm/instantiate";

type Fused = Memory & { sample: (...numbers: number[]) => void };

let loaded: Fused | null = null;

const fused = (): Fused => (loaded ??= instantiate<Fused>(fusedBytes));

const alignment = 16;
const aligned = (place: number) => Math.ceil(place / alignment) * alignment;
const stageBytes = 64;
/** Places are counted in 1/65536 of a pixel within 32 bits: none may lie further out than this. */
const furthest = 30_000;

/** The tones that the pass knows: those that are a sum of channels and a constant. */
export function isFusable(tone: Tone): boolean {
  return tone.kind === "affine" || tone.kind === "matrix";
}

function withinReach([a, b, c, d, e, f]: Matrix, { width, height }: Size): boolean {
  return [
    [0, 0],
    [width, 0],
    [0, height],
    [width, height],
  ].every(([x = 0, y = 0]) => Math.abs(a * x + b * y + c) < furthest && Math.abs(d * x + e * y + f) < furthest);
}

/** The stages' numbers: a kind, then factors and an offset, or three rows of a matrix, four places each. */
function writeStages(memory: ArrayBuffer, place: number, tones: readonly Tone[]): void {
  const view = new DataView(memory);
  tones.forEach((tone, nth) => {
    const stage = place + nth * stageBytes;
    const rows =
      tone.kind === "affine"
        ? [[...tone.factor, tone.offset]]
        : tone.kind === "matrix"
          ? [0, 3, 6].map((start) => tone.of.slice(start, start + 3))
          : [];
    view.setInt32(stage, tone.kind === "affine" ? 0 : 1, true);
    rows.forEach((row, at) =>
      row.forEach((value, place_) => view.setFloat32(stage + alignment * (at + 1) + 4 * place_, value, true)),
    );
  });
}

/**
 * The output's pixels; null where this pass cannot make them. `back` goes from the output to the raster; all tones must be
 * fusable.
 */
export function fusedSample(
  { data, width, height, channels }: Raster,
  back: Matrix,
  size: Size,
  tones: readonly Tone[],
): Uint8Array | null {
  if (channels !== 3 || data instanceof Uint16Array || !withinReach(back, size)) return null;
  if (width > furthest || height > furthest) return null;
  const { memory, reserve, sample } = fused();
  const length = size.width * size.height * 3;
  const target = aligned(firstByte + data.length + width * 3 + 8);
  const numbers = aligned(target + length + 16);
  const stages = aligned(numbers + 6 * 8);
  reserve(stages + tones.length * stageBytes);
  new Uint8Array(memory.buffer, firstByte, data.length).set(data);
  new Float64Array(memory.buffer, numbers, 6).set(back.slice(0, 6));
  writeStages(memory.buffer, stages, tones);
  sample(firstByte, width, height, target, size.width, size.height, numbers, stages, tones.length);
  return new Uint8Array(memory.buffer, target, length).slice();
}
