/**
 * What an augmentation is: its parameters as data, and what it does to places, tones, pixels and labels. Screens, the
 * plan's schema and its documentation are made from these declarations.
 */
import type { Box } from "../../model/shape";
import type { Size } from "../../model/item";
import type { Draws } from "../../model/seeded";
import type { Matrix } from "../../geometry/transform";
import type { Raster } from "../raster";
import type { Tone } from "../tone/tone";

export type Unit = "share" | "degrees" | "pixels" | "stops" | "bits" | "times" | "level" | "";

/** A number, or a range of which one is drawn evenly. `neutral` is the number that changes nothing. */
export type NumberParameter = {
  kind: "number";
  min: number;
  max: number;
  unit: Unit;
  default: readonly [number, number] | number;
  whole?: boolean;
  neutral?: number;
  help: string;
};
/** Some of a few whole numbers, of which one is drawn. */
export type OneOfNumbersParameter = {
  kind: "one-of";
  options: readonly number[];
  default: readonly number[];
  help: string;
};
/** A word; `colour` says that `#rrggbb` is one as well. */
export type ChoiceParameter = {
  kind: "choice";
  options: readonly string[];
  default: string;
  colour?: boolean;
  help: string;
};
/** Names of classes; none means all of them. */
export type ClassesParameter = { kind: "classes"; default: readonly string[]; help: string };
/** Tone ops, as they stand in a plan. */
export type TonesParameter = { kind: "tones"; default: readonly []; help: string };
export type Parameter = NumberParameter | OneOfNumbersParameter | ChoiceParameter | ClassesParameter | TonesParameter;
export type Parameters = Readonly<Record<string, Parameter>>;

/** An op that was drawn: its name and the values that hold. */
export type Effect = { op: string; values: Readonly<Record<string, unknown>> };

type ValueOf<P extends Parameter> = P extends NumberParameter | OneOfNumbersParameter
  ? number
  : P extends ChoiceParameter
    ? string
    : P extends ClassesParameter
      ? readonly string[]
      : readonly Effect[];
export type Values<P extends Parameters> = { readonly [K in keyof P]: ValueOf<P[K]> };

type Described<P extends Parameters> = {
  name: string;
  title: string;
  /** What training with it helps against, in a few words; ops with the same words stand together. */
  against: string;
  help: string;
  parameters: P;
};

/** Where an op puts the pixels of a frame: the map, and the size of the frame that comes out. */
export type Placement = { matrix: Matrix; size: Size };
export type GeometryOp<P extends Parameters = Parameters> = Described<P> & {
  kind: "geometry";
  /** Draws that the parameters do not say, as of four corners, come from `draws`. */
  place: (values: Values<P>, frame: Size, draws: Draws) => Placement;
};
export type ToneOp<P extends Parameters = Parameters> = Described<P> & {
  kind: "tone";
  tone: (values: Values<P>) => Tone;
};

/** What ops on pixels need from outside: a codec's answer to compressing and opening again. */
export type PixelTools = { compressed: (raster: Raster, quality: number) => Promise<Raster> };
export type ColourRaster = Raster & { data: Uint8Array };
export type TextureOp<P extends Parameters = Parameters> = Described<P> & {
  kind: "texture";
  /** `seed` is drawn with the parameters; changes the raster's pixels or gives others of its size. */
  change: (raster: ColourRaster, values: Values<P>, seed: number, tools: PixelTools) => ColourRaster | Promise<Raster>;
};
/** An op on some places of the picture. Rectangles are in pixels of the output, whole numbers. */
export type PatchOp<P extends Parameters = Parameters> = Described<P> & {
  kind: "patch";
  /** Where it acts on an output of this size with objects in these boxes. */
  places: (values: Values<P>, size: Size, boxes: readonly Box[], draws: Draws) => readonly Box[];
  /** Whether what lies under its places is hidden. */
  covers: boolean;
  change: (raster: ColourRaster, values: Values<P>, places: readonly Box[], seed: number) => void;
};
/** An op that brings in other training images. */
export type SourcesOp<P extends Parameters = Parameters> = Described<P> & { kind: "sources" };

export type AnyOp =
  | Omit<GeometryOp, "place">
  | Omit<ToneOp, "tone">
  | Omit<TextureOp, "change">
  | Omit<PatchOp, "places" | "change">
  | SourcesOp;
export type OpKind = AnyOp["kind"];

export const geometryOp = <const P extends Parameters>(op: Omit<GeometryOp<P>, "kind">): GeometryOp<P> => ({
  kind: "geometry",
  ...op,
});
export const toneOp = <const P extends Parameters>(op: Omit<ToneOp<P>, "kind">): ToneOp<P> => ({
  kind: "tone",
  ...op,
});
export const textureOp = <const P extends Parameters>(op: Omit<TextureOp<P>, "kind">): TextureOp<P> => ({
  kind: "texture",
  ...op,
});
export const patchOp = <const P extends Parameters>(op: Omit<PatchOp<P>, "kind">): PatchOp<P> => ({
  kind: "patch",
  ...op,
});
export const sourcesOp = <const P extends Parameters>(op: Omit<SourcesOp<P>, "kind">): SourcesOp<P> => ({
  kind: "sources",
  ...op,
});
